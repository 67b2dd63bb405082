/**
 * What a narrated presentation file has that the library does not write: times, transitions, languages, properties of its own, and parts in the
 * order of the schema.
 *
 * @see ECMA-376, part 1, §19.2.1.26 (presentation), §19.3.1.50 (transition), §19.5 (timing), §20.1.3.1 (audioFile); part 2, §10.1.2 (content types)
 */
import type { PlannedFilm } from '#core/edition/films.ts'
import { SQUARE_CORNER } from '#core/model/moving/small-picture.ts'
import type { ChangeKind } from '#core/model/transition.ts'

export interface SlideTimes {
  /** How long it stays. */
  ms: number
  hasSound: boolean
  /** When its further pictures come, by the names of their shapes. */
  steps: { name: string; ms: number }[]
  /** Films, by the names of their shapes. */
  films: {
    name: string
    /** When it begins, and how long it is shown once. */
    ms: number
    lengthMs: number
    /** What is left out at its beginning and end. */
    trim: { start: number; end: number }
    loops: boolean
    stays: boolean
    isMuted: boolean
    /** Where it is no rectangle. */
    edge?: PlannedFilm['edge']
  }[]
  transition: { kind: ChangeKind; seconds: number } | null
}

const escaped = (text: string) =>
  text.replace(/[&<>"]/g, (sign) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[sign]!)
// biome-ignore lint/suspicious/noControlCharactersInRegex: they are what XML may not have
const writable = (text: string) => escaped(text.replace(/[\u0000-\u0008\u000b\u000c\u000e-\u001f]/g, ''))

const idOf = (xml: string, name: string) => new RegExp(`<p:cNvPr id="(\\d+)" name="${name}"`).exec(xml)?.[1]

/** The sound begins with the slide, and each picture and film comes at its time. */
function timing(
  sound: string | undefined,
  ms: number,
  steps: readonly { id: string; ms: number }[],
  films: readonly (SlideTimes['films'][number] & { id: string })[],
): string {
  let id = 5
  const target = (shape: string) => `<p:tgtEl><p:spTgt spid="${shape}"/></p:tgtEl>`
  const begins = (delay: number) => `<p:stCondLst><p:cond delay="${delay}"/></p:stCondLst>`
  const plays = (shape: string, delay: number, length: number, nodeType: string) =>
    `<p:par><p:cTn id="${id++}" presetID="1" presetClass="mediacall" presetSubtype="0" fill="hold" nodeType="${nodeType}">${begins(delay)}<p:childTnLst><p:cmd type="call" cmd="playFrom(0.0)"><p:cBhvr><p:cTn id="${id++}" dur="${length}" fill="hold"/>${target(shape)}</p:cBhvr></p:cmd></p:childTnLst></p:cTn></p:par>`
  const played = [
    ...(sound ? [plays(sound, 0, ms, 'afterEffect')] : []),
    ...films.map((film, i) => plays(film.id, film.ms, film.lengthMs, sound || i > 0 ? 'withEffect' : 'afterEffect')),
  ].join('')
  const shown = steps
    .map(
      (step) =>
        `<p:par><p:cTn id="${id++}" presetID="1" presetClass="entr" presetSubtype="0" fill="hold" nodeType="withEffect">${begins(step.ms)}<p:childTnLst><p:set><p:cBhvr><p:cTn id="${id++}" dur="1" fill="hold">${begins(0)}</p:cTn>${target(step.id)}<p:attrNameLst><p:attrName>style.visibility</p:attrName></p:attrNameLst></p:cBhvr><p:to><p:strVal val="visible"/></p:to></p:set></p:childTnLst></p:cTn></p:par>`,
    )
    .join('')
  const waits = '<p:stCondLst><p:cond delay="indefinite"/></p:stCondLst>'
  const media = [
    ...(sound
      ? [
          `<p:audio><p:cMediaNode vol="80000" showWhenStopped="0"><p:cTn id="${id++}" fill="hold" display="0">${waits}</p:cTn>${target(sound)}</p:cMediaNode></p:audio>`,
        ]
      : []),
    ...films.map(
      (film) =>
        `<p:video><p:cMediaNode ${film.isMuted ? 'mute="1"' : 'vol="80000"'}><p:cTn id="${id++}" ${film.loops ? 'repeatCount="indefinite" ' : ''}fill="${film.stays ? 'hold' : 'remove'}" display="0">${waits}</p:cTn>${target(film.id)}</p:cMediaNode></p:video>`,
    ),
  ].join('')
  const ends = (name: string, event: string) =>
    `<p:${name}><p:cond evt="${event}" delay="0"><p:tgtEl><p:sldTgt/></p:tgtEl></p:cond></p:${name}>`
  return `<p:timing><p:tnLst><p:par><p:cTn id="1" dur="indefinite" restart="never" nodeType="tmRoot"><p:childTnLst><p:seq concurrent="1" nextAc="seek"><p:cTn id="2" dur="indefinite" nodeType="mainSeq"><p:childTnLst><p:par><p:cTn id="3" fill="hold"><p:stCondLst><p:cond delay="indefinite"/><p:cond evt="onBegin" delay="0"><p:tn val="2"/></p:cond></p:stCondLst><p:childTnLst><p:par><p:cTn id="4" fill="hold">${begins(0)}<p:childTnLst>${played}${shown}</p:childTnLst></p:cTn></p:par></p:childTnLst></p:cTn></p:par></p:childTnLst></p:cTn>${ends('prevCondLst', 'onPrev')}${ends('nextCondLst', 'onNext')}</p:seq>${media}</p:childTnLst></p:cTn></p:par></p:tnLst></p:timing>`
}

const CHANGES: Record<ChangeKind, string> = {
  'cross-fade': '<p:fade/>',
  wipe: '<p:wipe dir="l"/>',
  push: '<p:push dir="l"/>',
}

/** Of the media of a slide the sound is called a sound and not a film. */
export const soundRelations = (xml: string): string =>
  xml.replace(/<Relationship [^>]*>/g, (one) =>
    /Target="[^"]*\.m4a"/.test(one) ? one.replace('relationships/video"', 'relationships/audio"') : one,
  )

/** @see ECMA-376, part 1, §20.1.10.56 (ellipse, roundRect), §20.1.9.5 (the corner as hundred-thousandths of the shorter side) */
const GEOMETRY = {
  round: '<a:prstGeom prst="ellipse"><a:avLst/></a:prstGeom>',
  square: `<a:prstGeom prst="roundRect"><a:avLst><a:gd name="adj" fmla="val ${SQUARE_CORNER * 100_000}"/></a:avLst></a:prstGeom>`,
}

/** A slide's XML with its times: the sound is called a sound and not a film, and the slide goes on by itself. */
export function timedSlide(xml: string, { ms, hasSound, steps, films, transition }: SlideTimes): string {
  const named = xml.replace(/<p:pic>(?:(?!<\/p:pic>)[\s\S])*<\/p:pic>/g, (picture) => {
    const film = films.find(({ name }) => picture.includes(`name="${name}"`))
    if (!film) return picture.replaceAll('<a:videoFile ', '<a:audioFile ')
    const { start, end } = film.trim
    const shaped = film.edge ? picture.replace(/<a:prstGeom prst="rect">[\s\S]*?<\/a:prstGeom>/, GEOMETRY[film.edge]) : picture
    if (start === 0 && end === 0) return shaped
    return shaped.replace(/<p14:media ([^>]*)\/>/, `<p14:media $1><p14:trim st="${start}" end="${end}"/></p14:media>`)
  })
  const sound = hasSound
    ? /<p:pic>\s*<p:nvPicPr>\s*<p:cNvPr id="(\d+)"(?:(?!<\/p:pic>)[\s\S])*?<a:audioFile /.exec(named)?.[1]
    : undefined
  const found = <T extends { name: string }>(list: readonly T[]) =>
    list.flatMap((one) => {
      const id = idOf(named, one.name)
      return id ? [{ ...one, id }] : []
    })
  const [shapes, moving] = [found(steps), found(films)]
  const speed = !transition || transition.seconds < 0.6 ? 'fast' : transition.seconds < 0.9 ? 'med' : 'slow'
  const change = transition ? CHANGES[transition.kind] : ''
  const times = sound || shapes.length > 0 || moving.length > 0 ? timing(sound, ms, shapes, moving) : ''
  return named.replace(
    '</p:sld>',
    `<p:transition spd="${speed}" advClick="1" advTm="${ms}">${change}</p:transition>${times}</p:sld>`,
  )
}

/** Notes with a paragraph for each line of the script. */
export function notesOf(xml: string, script: string, language: string): string {
  const lines = script.split('\n').map((line) => `<a:p><a:r><a:rPr lang="${language}"/><a:t>${writable(line)}</a:t></a:r></a:p>`)
  const empty = `<a:p><a:endParaRPr lang="${language}"/></a:p>`
  return xml
    .replace(
      /(<p:ph type="body"[\s\S]*?<a:lstStyle\/>)[\s\S]*?(<\/p:txBody>)/,
      (_, before: string, after: string) => `${before}${script === '' ? empty : lines.join('')}${after}`,
    )
    .replace(/<p:extLst>[\s\S]*?<\/p:extLst>/, '')
}

/** Masters of notes stand before the slides. */
export const orderedPresentation = (xml: string): string => {
  const [notes] = /<p:notesMasterIdLst>[\s\S]*?<\/p:notesMasterIdLst>/.exec(xml) ?? []
  return notes ? xml.replace(notes, '').replace('<p:sldIdLst>', `${notes}<p:sldIdLst>`) : xml
}

/** Without what is not there. @param parts names in the file */
export const knownTypes = (xml: string, parts: ReadonlySet<string>): string =>
  xml.replace(/<Override PartName="\/([^"]+)"[^>]*\/>/g, (whole, name: string) => (parts.has(name) ? whole : ''))

export interface Properties {
  title: string
  author: string
  language: string
  slides: number
  hidden: number
  at: Date
}

/** The file's properties, by the names of their parts: what it is called, by whom and when, and nothing of who wrote the file. */
export function properties({ title, author, language, slides, hidden, at }: Properties): Record<string, string> {
  const moment = at.toISOString().replace(/\.\d+Z$/, 'Z')
  const time = (name: string) => `<dcterms:${name} xsi:type="dcterms:W3CDTF">${moment}</dcterms:${name}>`
  const head = '<?xml version="1.0" encoding="UTF-8" standalone="yes"?>'
  return {
    'docProps/app.xml': `${head}<Properties xmlns="http://schemas.openxmlformats.org/officeDocument/2006/extended-properties"><Application>Tidy Lectern</Application><Slides>${slides}</Slides><Notes>${slides}</Notes><HiddenSlides>${hidden}</HiddenSlides></Properties>`,
    'docProps/core.xml': `${head}<cp:coreProperties xmlns:cp="http://schemas.openxmlformats.org/package/2006/metadata/core-properties" xmlns:dc="http://purl.org/dc/elements/1.1/" xmlns:dcterms="http://purl.org/dc/terms/" xmlns:xsi="http://www.w3.org/2001/XMLSchema-instance"><dc:title>${writable(title)}</dc:title>${author ? `<dc:creator>${writable(author)}</dc:creator>` : ''}<dc:language>${language}</dc:language>${time('created')}${time('modified')}</cp:coreProperties>`,
  }
}
