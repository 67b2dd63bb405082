/** The messages of the code: what stands in `say(…)` and `message(…)`, file by file. */
import { readdirSync, readFileSync, statSync } from 'node:fs'
import { dirname, join, normalize } from 'node:path'
import { parseAst } from 'vite'

const HOUSES = ['core', 'server', 'web', 'cli']
const SPOKEN = new Set(['say', 'message'])

export interface Found {
  /** In English. */
  messages: Set<string>
  faults: string[]
}

interface Node {
  type: string
  start: number
  [name: string]: unknown
}

const isNode = (value: unknown): value is Node => typeof value === 'object' && value !== null && 'type' in value

function sourcesIn(path: string): string[] {
  if (statSync(path).isDirectory()) return readdirSync(path).flatMap((name) => sourcesIn(join(path, name)))
  // AssemblyScript is another language
  return /\.tsx?$/.test(path) && !/\.test\.tsx?$|\.as\.ts$/.test(path) ? [path] : []
}

/** @returns the texts an argument may be; null where it is no text of the code */
function textsOf(argument: Node): string[] | null {
  if (argument.type === 'Literal') return typeof argument.value === 'string' ? [argument.value] : null
  if (argument.type !== 'ConditionalExpression') return null
  const [one, other] = [textsOf(argument.consequent as Node), textsOf(argument.alternate as Node)]
  return one && other ? [...one, ...other] : null
}

/** @param file a path from the root of the project */
export function messagesIn(file: string): Found {
  const source = readFileSync(file, 'utf8')
  const found: Found = { messages: new Set(), faults: [] }
  if (!/\b(say|message)\(/.test(source)) return found
  const line = (node: Node) => source.slice(0, node.start).split('\n').length
  const visit = (node: unknown, inFunction: boolean) => {
    if (Array.isArray(node)) for (const one of node) visit(one, inFunction)
    if (!isNode(node)) return
    const { callee, arguments: given } = node as { callee?: Node & { name?: string }; arguments?: Node[] } & Node
    if (node.type === 'CallExpression' && callee?.type === 'Identifier' && SPOKEN.has(callee.name ?? '') && given?.[0]) {
      const texts = textsOf(given[0])
      for (const text of texts ?? []) found.messages.add(text)
      if (!texts && (callee.name === 'message' || given[0].type === 'TemplateLiteral'))
        found.faults.push(`${file}:${line(node)}: what is said must stand there as text`)
      if (callee.name === 'say' && !inFunction)
        found.faults.push(`${file}:${line(node)}: said before the language is known; make it a message, and say it later`)
    }
    const inside = inFunction || /Function|MethodDefinition|PropertyDefinition/.test(node.type)
    for (const value of Object.values(node)) if (typeof value === 'object') visit(value, inside)
  }
  visit(parseAst(source, { lang: file.endsWith('x') ? 'tsx' : 'ts' }), false)
  return found
}

/** All messages of the code. */
export function allMessages(): Found {
  const files = HOUSES.flatMap(sourcesIn).map(messagesIn)
  return { messages: new Set(files.flatMap(({ messages }) => [...messages])), faults: files.flatMap(({ faults }) => faults) }
}

const IMPORT = /(?:^|\n)\s*(?:import|export)\s+(?!type\b)[^'"]*?['"]([#.][^'"]+)['"]|import\(\s*['"]([#.][^'"]+)['"]/g

/**
 * The messages of a page: of what its script loads, however late.
 *
 * @param told files and folders whose messages come to the page as data
 */
export function messagesOfPage(entry: string, told: string[] = []): Set<string> {
  const messages = new Set(told.flatMap(sourcesIn).flatMap((file) => [...messagesIn(file).messages]))
  const seen = new Set<string>()
  const open = [entry]
  for (let file = open.pop(); file; file = open.pop()) {
    if (seen.has(file)) continue
    seen.add(file)
    for (const text of messagesIn(file).messages) messages.add(text)
    for (const [, fixed, late] of readFileSync(file, 'utf8').matchAll(IMPORT)) {
      const name = (fixed ?? late)!
      const path = name.startsWith('#') ? name.slice(1) : normalize(join(dirname(file), name))
      if (/\.tsx?$/.test(path)) open.push(path)
    }
  }
  return messages
}
