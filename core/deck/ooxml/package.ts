/** Parts of an OOXML package and what each refers to. @see ECMA-376, part 2 (Open Packaging Conventions) */
import { message } from '#core/words/say.ts'
import { DeckProblem } from '../problem.ts'
import { children, parseXml, type XmlNode } from '../xml.ts'

export interface Relation {
  id: string
  /** Last word of its type, such as `slideLayout`. */
  type: string
  /** Name of the part, or an address outside. */
  target: string
  external: boolean
}

export interface OfficePackage {
  files: ReadonlyMap<string, Uint8Array>
  has(part: string): boolean
  /** @throws DeckProblem when it is missing */
  xml(part: string): XmlNode
  relations(part: string): Relation[]
}

const folderOf = (part: string) => part.slice(0, part.lastIndexOf('/') + 1)

/** Resolves a target against the part it is named in. */
function resolve(base: string, target: string): string {
  if (target.startsWith('/')) return target.slice(1)
  const steps: string[] = []
  for (const step of `${folderOf(base)}${target}`.split('/')) {
    if (step === '..') steps.pop()
    else if (step !== '.' && step !== '') steps.push(step)
  }
  return steps.join('/')
}

/** The name at the end of an address; one that is encoded wrongly stays as it is. */
export function nameIn(target: string): string {
  const name = target.split(/[\\/]/).at(-1) ?? target
  try {
    return decodeURIComponent(name)
  } catch {
    return name
  }
}

export function officePackage(files: ReadonlyMap<string, Uint8Array>): OfficePackage {
  const parsed = new Map<string, XmlNode>()
  return {
    files,
    has: (part) => files.has(part),
    xml(part) {
      const known = parsed.get(part)
      if (known) return known
      const bytes = files.get(part)
      if (!bytes) throw new DeckProblem(message('A part of this deck ({part}) is missing. Save the deck again.', { part }))
      const node = parseXml(bytes, part)
      parsed.set(part, node)
      return node
    },
    relations(part) {
      const name = `${folderOf(part)}_rels/${part.slice(part.lastIndexOf('/') + 1)}.rels`
      if (!files.has(name)) return []
      return children(this.xml(name), 'Relationship').map(({ attrs }) => {
        const external = attrs.TargetMode === 'External'
        return {
          id: attrs.Id ?? '',
          type: (attrs.Type ?? '').split('/').at(-1)!,
          target: external ? (attrs.Target ?? '') : resolve(part, attrs.Target ?? ''),
          external,
        }
      })
    },
  }
}
