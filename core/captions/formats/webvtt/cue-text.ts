/** Cue text: its tree of tags, and the same as people read it. */

import { decodeHTML } from 'entities'
import { type Message, message } from '#core/words/say.ts'
import { isSpace } from './settings.ts'
import { collectTimestamp, timestamp } from './timestamp.ts'

export type CueNode =
  | { kind: 'text'; text: string }
  | { kind: 'timestamp'; seconds: number }
  | { kind: 'c' | 'i' | 'b' | 'u' | 'ruby' | 'rt' | 'v' | 'lang'; classes: string[]; annotation: string; children: CueNode[] }

type Element = Extract<CueNode, { children: CueNode[] }>

type Token =
  | { kind: 'text'; text: string }
  | { kind: 'start'; name: string; classes: string[]; annotation: string }
  | { kind: 'end'; name: string }
  | { kind: 'timestamp'; text: string }

const TAGS = ['c', 'i', 'b', 'u', 'ruby', 'rt', 'v', 'lang'] as const

/** What stands between `<` and `>`. */
function tagToken(tag: string): Token {
  if (tag[0] === '/') return { kind: 'end', name: tag.slice(1) }
  if (tag[0] !== undefined && tag[0] >= '0' && tag[0] <= '9') return { kind: 'timestamp', text: tag }
  let at = 0
  while (at < tag.length && tag[at] !== '.' && !isSpace(tag[at])) at++
  const name = tag.slice(0, at)
  let space = at
  while (space < tag.length && !isSpace(tag[space])) space++
  return {
    kind: 'start',
    name,
    classes: tag
      .slice(at, space)
      .split('.')
      .filter((c) => c !== ''),
    annotation: decodeHTML(tag.slice(space))
      .replace(/[ \t\n\f\r]+/g, ' ')
      .replace(/^ | $/g, ''),
  }
}

/** "WebVTT cue text tokenizer", W3C WebVTT §6.4. */
function tokens(text: string): Token[] {
  const list: Token[] = []
  let at = 0
  while (at < text.length) {
    if (text[at] !== '<') {
      const tag = text.indexOf('<', at)
      const end = tag < 0 ? text.length : tag
      list.push({ kind: 'text', text: decodeHTML(text.slice(at, end)) })
      at = end
      continue
    }
    const close = text.indexOf('>', at)
    const end = close < 0 ? text.length : close
    list.push(tagToken(text.slice(at + 1, end)))
    at = end + 1
  }
  return list
}

/**
 * "WebVTT cue text parsing rules". Tags that are unknown, or stand where they may not, are passed over; those left open are closed.
 *
 * @see W3C WebVTT, §6.4
 */
export function parseCueText(text: string): CueNode[] {
  const root: CueNode[] = []
  const open: Element[] = []
  const add = (node: CueNode) => (open.at(-1)?.children ?? root).push(node)
  for (const token of tokens(text)) {
    const current = open.at(-1)
    if (token.kind === 'text') {
      if (token.text !== '') add(token)
    } else if (token.kind === 'timestamp') {
      const moment = collectTimestamp(token.text, 0)
      if (moment && moment.at === token.text.length) add({ kind: 'timestamp', seconds: moment.seconds })
    } else if (token.kind === 'end') {
      if (current?.kind === token.name) open.pop()
      else if (token.name === 'ruby' && current?.kind === 'rt') open.splice(-2)
    } else {
      const kind = TAGS.find((tag) => tag === token.name)
      if (!kind || (kind === 'rt' && current?.kind !== 'ruby')) continue
      const annotation = kind === 'v' || kind === 'lang' ? token.annotation : ''
      const element: Element = { kind, classes: token.classes, annotation, children: [] }
      add(element)
      open.push(element)
    }
  }
  return root
}

/** Cue text as a person reads it: tags away, escapes resolved. */
export function plainCueText(cueText: string): string {
  return tokens(cueText)
    .map((token) => (token.kind === 'text' ? token.text : ''))
    .join('')
}

/** Nobody reads more of one caption. */
const MOST_FAULTS = 10

/**
 * What is wrong with the tags of a cue text, which readers pass over.
 *
 * @see W3C WebVTT, §4.2.2 "WebVTT caption or subtitle cue components"
 */
export function cueTextFaults(cueText: string): Message[] {
  const faults: Message[] = []
  const open: string[] = []
  for (const token of tokens(cueText)) {
    if (faults.length >= MOST_FAULTS) return faults
    if (token.kind === 'timestamp') {
      if (collectTimestamp(token.text, 0)?.at !== token.text.length)
        faults.push(message('<{text}> is no moment.', { text: token.text }))
    } else if (token.kind === 'start') {
      if (!TAGS.some((tag) => tag === token.name))
        faults.push(message('There is no tag <{name}>; a sign < is written &lt;.', { name: token.name.slice(0, 20) }))
      else if (token.name === 'rt' && open.at(-1) !== 'ruby') faults.push(message('<rt> stands outside <ruby>.'))
      else open.push(token.name)
      if (token.name === 'v' && token.annotation === '') faults.push(message('<v> names nobody.'))
    } else if (token.kind === 'end') {
      if (open.at(-1) === token.name) open.pop()
      else if (token.name === 'ruby' && open.at(-1) === 'rt') open.splice(-2)
      else faults.push(message('</{name}> closes nothing.', { name: token.name.slice(0, 20) }))
    }
  }
  // a voice may reach to the end of the cue without being closed
  for (const name of open.slice(0, MOST_FAULTS))
    if (!(name === 'v' && open.length === 1) && name !== 'rt') faults.push(message('<{name}> is not closed.', { name }))
  return faults
}

/** Who speaks, by the first voice tag; null without one. */
export function speakerOf(cueText: string): string | null {
  const first = parseCueText(cueText)[0]
  return first?.kind === 'v' && first.annotation !== '' ? first.annotation : null
}

const escaped = (text: string) => text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;')
const withoutEmptyLines = (text: string) => text.replace(/\n[ \t]*(?=\n|$)/g, '')

/** Plain text as cue text: what would be read as markup is escaped, and no empty line ends the cue early. */
export function escapeCueText(text: string): string {
  return withoutEmptyLines(escaped(text).replaceAll('\0', '\uFFFD').replace(/\r\n?/g, '\n')).trim()
}

/** A text that somebody says, with their name. @see W3C WebVTT, voice tags */
export function spokenBy(speaker: string, text: string): string {
  return `<v ${escaped(speaker.replace(/\s+/g, ' ').trim())}>${escapeCueText(text)}</v>`
}

/** A tree as cue text again. */
export function writeCueText(nodes: readonly CueNode[]): string {
  const out: string[] = []
  // a stack of its own: a file may nest as deep as it likes
  const left: (CueNode | string)[] = [...nodes].reverse()
  for (let node = left.pop(); node !== undefined; node = left.pop()) {
    if (typeof node === 'string') out.push(node)
    else if (node.kind === 'text') out.push(escaped(node.text))
    else if (node.kind === 'timestamp') out.push(`<${timestamp(node.seconds)}>`)
    else {
      const annotation = node.annotation && ` ${escaped(node.annotation)}`
      out.push(`<${[node.kind, ...node.classes].join('.')}${annotation}>`)
      left.push(`</${node.kind}>`, ...[...node.children].reverse())
    }
  }
  return withoutEmptyLines(out.join(''))
}
