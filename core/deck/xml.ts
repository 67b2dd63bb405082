/** XML from strangers as a small tree. No document types, so no entities of its own. */

import { XMLParser } from 'fast-xml-parser'
import { strFromU8 } from 'fflate'
import { message } from '#core/words/say.ts'
import { DeckProblem } from './problem.ts'

const LARGEST = 50 * 1024 ** 2
const DEEPEST = 120

/** Name of the nodes that are pieces of text between others. */
export const TEXT = '#text'

export interface XmlNode {
  /** Without its namespace's prefix. */
  name: string
  /** By their names as written, prefixes included. */
  attrs: Record<string, string>
  children: XmlNode[]
  /** Of this node alone. */
  text: string
}

const parser = new XMLParser({
  preserveOrder: true,
  ignoreAttributes: false,
  attributeNamePrefix: '',
  parseTagValue: false,
  parseAttributeValue: false,
  trimValues: false,
  ignoreDeclaration: true,
  ignorePiTags: true,
  htmlEntities: true,
})

type Raw = Record<string, unknown>
const bare = (name: string) => name.slice(name.indexOf(':') + 1)

function nodeOf(raw: Raw, depth: number): XmlNode {
  if (depth > DEEPEST) throw new DeckProblem(message('A part of this deck is nested too deeply to be read.'))
  const name = Object.keys(raw).find((key) => key !== ':@')!
  const inside = (raw[name] as Raw[] | undefined) ?? []
  const children: XmlNode[] = []
  let text = ''
  for (const child of Array.isArray(inside) ? inside : []) {
    if ('#text' in child) {
      text += String(child['#text'])
      children.push({ name: TEXT, attrs: {}, children: [], text: String(child['#text']) })
    } else children.push(nodeOf(child, depth + 1))
  }
  return {
    name: bare(name),
    attrs: (raw[':@'] as Record<string, string> | undefined) ?? {},
    children: alternatives(children),
    text,
  }
}

/** Where a writer offers a new way and an old one, the old one is taken: ECMA-376, part 3, §7.5 (AlternateContent). */
function alternatives(nodes: XmlNode[]): XmlNode[] {
  if (!nodes.some((node) => node.name === 'AlternateContent')) return nodes
  return nodes.flatMap((node) => {
    if (node.name !== 'AlternateContent') return [node]
    const fallback = child(node, 'Fallback')
    const choice = child(node, 'Choice')
    return (fallback && fallback.children.length > 0 ? fallback : choice)?.children ?? []
  })
}

/** @throws DeckProblem for what is no XML, brings entities of its own, or is too large or too deep */
export function parseXml(bytes: Uint8Array, part: string): XmlNode {
  if (bytes.length > LARGEST) throw new DeckProblem(message('A part of this deck ({part}) is too large to be read.', { part }))
  if (bytes[0] === 0xff || bytes[0] === 0xfe)
    throw new DeckProblem(message('A part of this deck ({part}) is not written in UTF-8.', { part }))
  const text = strFromU8(bytes)
  if (/<!(DOCTYPE|ENTITY)/i.test(text))
    throw new DeckProblem(message('A part of this deck ({part}) brings entities of its own. It was not read.', { part }))
  let raw: Raw[]
  try {
    raw = parser.parse(text) as Raw[]
  } catch {
    throw new DeckProblem(message('A part of this deck ({part}) is damaged and cannot be read. Save the deck again.', { part }))
  }
  const root = raw.find((node) => !('#text' in node) && !Object.keys(node)[0]!.startsWith('?'))
  if (!root) throw new DeckProblem(message('A part of this deck ({part}) is empty. Save the deck again.', { part }))
  return nodeOf(root, 0)
}

export const child = (node: XmlNode | undefined | null, name: string): XmlNode | undefined =>
  node?.children.find((c) => c.name === name)
export const children = (node: XmlNode | undefined | null, name: string): XmlNode[] =>
  node?.children.filter((c) => c.name === name) ?? []

/** @returns the node at the end of a path of names */
export function at(node: XmlNode | undefined | null, ...path: string[]): XmlNode | undefined {
  let found: XmlNode | undefined = node ?? undefined
  for (const name of path) found = child(found, name)
  return found
}

/** All nodes of a name below a node, in document order. */
export function below(node: XmlNode | undefined | null, name: string): XmlNode[] {
  if (!node) return []
  return node.children.flatMap((c) => [...(c.name === name ? [c] : []), ...below(c, name)])
}

export function numberOf(text: string | undefined): number | null {
  if (text === undefined) return null
  const value = Number(text)
  return Number.isFinite(value) ? value : null
}
