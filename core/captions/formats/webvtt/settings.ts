/** Cue settings and region settings: where a caption stands on the picture. */
import { skipDigits } from './timestamp.ts'

export interface CueSettings {
  /** Identifier of a region of the file; null for none. */
  region: string | null
  vertical: '' | 'rl' | 'lr'
  /** Line number, or percentage when `snapToLines` is false. */
  line: number | 'auto'
  snapToLines: boolean
  lineAlign: 'start' | 'center' | 'end'
  /** Percentage. */
  position: number | 'auto'
  positionAlign: 'line-left' | 'center' | 'line-right' | 'auto'
  /** Percentage. */
  size: number
  align: 'start' | 'center' | 'end' | 'left' | 'right'
}

export const DEFAULT_SETTINGS: CueSettings = {
  region: null,
  vertical: '',
  line: 'auto',
  snapToLines: true,
  lineAlign: 'start',
  position: 'auto',
  positionAlign: 'auto',
  size: 100,
  align: 'center',
}

export interface Region {
  id: string
  /** Percentages. */
  width: number
  lines: number
  anchor: [number, number]
  viewportAnchor: [number, number]
  scroll: 'up' | null
}

const USUAL_REGION: Region = { id: '', width: 100, lines: 3, anchor: [0, 100], viewportAnchor: [0, 100], scroll: null }

/** Characters that HTML calls ASCII whitespace. */
export const isSpace = (c: string | undefined) => c === ' ' || c === '\t' || c === '\n' || c === '\f' || c === '\r'

/** Words of a line, however many spaces stand between them. */
function words(text: string): string[] {
  return text.split(/[ \t\n\f\r]+/).filter((word) => word !== '')
}

/**
 * "Parse a percentage string": digits, perhaps a point and more digits, and the sign.
 *
 * @returns 0 to 100; null when it is none
 * @see W3C WebVTT, §6.3
 */
function percentage(text: string): number | null {
  const match = /^[0-9]+(\.[0-9]+)?%$/.exec(text)
  const value = match ? Number(text.slice(0, -1)) : Number.NaN
  return value <= 100 ? value : null
}

/** A line number or percentage, as the `line` setting takes them; null when it is neither. */
function linePosition(text: string): { line: number; snapToLines: boolean } | null {
  if (text.endsWith('%')) {
    const line = percentage(text)
    return line === null ? null : { line, snapToLines: false }
  }
  if (!/^-?[0-9]+(\.[0-9]+)?$/.test(text)) return null
  return { line: Number(text), snapToLines: true }
}

const one = <T extends string>(value: string, allowed: readonly T[]): T | null => allowed.find((a) => a === value) ?? null

/** `value` or `value,alignment`; the alignment is null when it is absent and undefined when it is none of those allowed. */
function withAlignment<T extends string>(value: string, allowed: readonly T[]): { value: string; align: T | null | undefined } {
  const comma = value.indexOf(',')
  if (comma < 0) return { value, align: null }
  return { value: value.slice(0, comma), align: one(value.slice(comma + 1), allowed) ?? undefined }
}

/**
 * "Parse the WebVTT cue settings". What is malformed is passed over.
 *
 * @param text what follows the times of a cue
 * @param regions identifiers of the regions defined so far
 * @returns the settings, and the parts that were passed over
 * @see W3C WebVTT, §6.3
 */
export function parseSettings(text: string, regions: readonly string[] = []): { settings: CueSettings; ignored: string[] } {
  const settings = { ...DEFAULT_SETTINGS }
  const set: Record<string, (value: string) => boolean> = {
    region(value) {
      if (!regions.includes(value)) return false
      settings.region = value
      return true
    },
    vertical(value) {
      const vertical = one(value, ['rl', 'lr'])
      if (vertical === null) return false
      settings.vertical = vertical
      return true
    },
    line(value) {
      const { value: place, align } = withAlignment(value, ['start', 'center', 'end'])
      const found = linePosition(place)
      if (!found || align === undefined) return false
      Object.assign(settings, found, align ? { lineAlign: align } : {})
      return true
    },
    position(value) {
      const { value: place, align } = withAlignment(value, ['line-left', 'center', 'line-right'])
      const position = percentage(place)
      if (position === null || align === undefined) return false
      Object.assign(settings, { position }, align ? { positionAlign: align } : {})
      return true
    },
    size(value) {
      const size = percentage(value)
      if (size === null) return false
      settings.size = size
      return true
    },
    align(value) {
      const align = one(value, ['start', 'center', 'end', 'left', 'right'])
      if (align === null) return false
      settings.align = align
      return true
    },
  }
  const ignored = words(text).filter((word) => {
    const colon = word.indexOf(':')
    if (colon < 1 || colon === word.length - 1) return true
    const name = word.slice(0, colon)
    return !(Object.hasOwn(set, name) && set[name]!(word.slice(colon + 1)))
  })
  // a region places its cues itself
  if (settings.line !== 'auto' || settings.size !== 100 || settings.vertical !== '') settings.region = null
  return { settings, ignored }
}

/**
 * Settings as they stand in a file, without those that are as always.
 *
 * @param where a region is known in its own file only
 */
export function writeSettings(settings: CueSettings, where: 'with region' | 'anywhere' = 'anywhere'): string {
  const { region, vertical, line, snapToLines, lineAlign, position, positionAlign, size, align } = settings
  return [
    where === 'with region' && region !== null && `region:${region}`,
    vertical && `vertical:${vertical}`,
    line !== 'auto' && `line:${line}${snapToLines ? '' : '%'}${lineAlign === 'start' ? '' : `,${lineAlign}`}`,
    position !== 'auto' && `position:${position}%${positionAlign === 'auto' ? '' : `,${positionAlign}`}`,
    size !== 100 && `size:${size}%`,
    align !== 'center' && `align:${align}`,
  ]
    .filter(Boolean)
    .join(' ')
}

/** A region as it stands in a file, under the line that says REGION, without what is as always. @see W3C WebVTT, §4.3 */
export function writeRegion({ id, width, lines, anchor, viewportAnchor, scroll }: Region): string {
  const place = ([x, y]: [number, number]) => `${x}%,${y}%`
  return [
    `id:${id}`,
    width !== USUAL_REGION.width && `width:${width}%`,
    lines !== USUAL_REGION.lines && `lines:${lines}`,
    place(anchor) !== place(USUAL_REGION.anchor) && `regionanchor:${place(anchor)}`,
    place(viewportAnchor) !== place(USUAL_REGION.viewportAnchor) && `viewportanchor:${place(viewportAnchor)}`,
    scroll && `scroll:${scroll}`,
  ]
    .filter(Boolean)
    .join('\n')
}

/**
 * "Collect WebVTT region settings".
 *
 * @param text the lines under REGION
 * @see W3C WebVTT, §6.2
 */
export function parseRegion(text: string): Region {
  const region: Region = { ...USUAL_REGION }
  const pair = (value: string): [number, number] | null => {
    const comma = value.indexOf(',')
    const x = comma < 0 ? null : percentage(value.slice(0, comma))
    const y = comma < 0 ? null : percentage(value.slice(comma + 1))
    return x === null || y === null ? null : [x, y]
  }
  for (const word of words(text)) {
    const colon = word.indexOf(':')
    if (colon < 1 || colon === word.length - 1) continue
    const value = word.slice(colon + 1)
    switch (word.slice(0, colon)) {
      case 'id':
        region.id = value
        break
      case 'width':
        region.width = percentage(value) ?? region.width
        break
      case 'lines':
        if (skipDigits(value, 0) === value.length) region.lines = Number(value)
        break
      case 'regionanchor':
        region.anchor = pair(value) ?? region.anchor
        break
      case 'viewportanchor':
        region.viewportAnchor = pair(value) ?? region.viewportAnchor
        break
      case 'scroll':
        if (value === 'up') region.scroll = 'up'
        break
    }
  }
  return region
}
