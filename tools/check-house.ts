/** Checks the rules of the house: who may import whom, that nothing runs in a circle, that files and folders stay small. docs/architecture.md lists them. */
import { existsSync, readdirSync, readFileSync, statSync } from 'node:fs'
import { dirname, join, normalize } from 'node:path'
import { parseAst } from 'vite'
import { circles } from './import-circles.ts'

const HOUSES = ['core', 'server', 'web', 'cli', 'demo', 'bench', 'tests', 'tools']
/** Small pure packages that the core may use. */
const CORE_PACKAGES = new Set([
  '@lingui/core',
  '@lingui/message-utils',
  'entities',
  'fast-xml-parser',
  'fflate',
  'jsep',
  'marked',
  'node-diff3',
  'svg-pathdata',
  'tinyld',
  'zod',
])
const LONGEST = 450
const MOST_FILES = 14
/** Lines of one function, and of one component. */
const LONGEST_FUNCTION = 80
const LONGEST_COMPONENT = 120
const GENERATED = new Set(['core/audio/wasm/wasm.ts', 'core/captions/align/kernels/wasm.ts'])

/** What each house may import, beside itself and packages. Tests of the core may use made-up sound and the bench's measures. */
const ALLOWED: Record<string, string[]> = {
  core: [],
  server: ['core'],
  web: ['core'],
  cli: ['core', 'server'],
  demo: ['core', 'server', 'tests'],
  bench: ['core', 'server', 'tests', 'demo'],
  tests: HOUSES,
  tools: HOUSES,
}

const faults: string[] = []

const houseOf = (path: string) => path.split('/')[0]!
const isTest = (path: string) => /\.test\.tsx?$/.test(path)

function filesIn(folder: string): string[] {
  return readdirSync(folder).flatMap((name) => {
    const path = join(folder, name)
    if (statSync(path).isDirectory()) return filesIn(path)
    return /\.tsx?$/.test(name) ? [path] : []
  })
}

interface Import {
  specifier: string
  isType: boolean
}

/** All that a file imports: `import`, `export … from`, `import()`, and `import()` of a type. */
function importsOf(file: string, source: string): Import[] {
  // AssemblyScript is another language, and imports nothing of ours but its own kind
  if (file.endsWith('.as.ts')) return []
  const found: Import[] = []
  const visit = (node: unknown) => {
    if (Array.isArray(node)) return node.forEach(visit)
    if (node === null || typeof node !== 'object') return
    const {
      type,
      source: from,
      ...rest
    } = node as { type?: string; source?: { value?: unknown } | null } & Record<string, unknown>
    const kind = rest.importKind ?? rest.exportKind
    if (/^(Import|Export|TSImportType)/.test(type ?? '') && typeof from?.value === 'string')
      found.push({ specifier: from.value, isType: kind === 'type' || type === 'TSImportType' })
    Object.values(rest).forEach(visit)
  }
  visit(parseAst(source, { lang: file.endsWith('x') ? 'tsx' : 'ts' }))
  return found
}

/** Functions that are longer than they may be, one sentence each. Tests and benches tell stories: theirs may be long. */
function longFunctions(file: string, source: string): string[] {
  if (file.endsWith('.as.ts') || isTest(file) || ['tests', 'bench'].includes(houseOf(file))) return []
  const lineAt = (place: number) => source.slice(0, place).split('\n').length
  const found: string[] = []
  const visit = (node: unknown, called: string) => {
    if (Array.isArray(node)) {
      for (const part of node) visit(part, called)
      return
    }
    if (node === null || typeof node !== 'object') return
    const { type = '', id, key, body, start = 0, end = 0, ...rest } = node as Partial<SyntaxNode>
    const name = id?.name ?? key?.name ?? called
    const lines = /Function/.test(type) && body ? lineAt(end) - lineAt(start) + 1 : 0
    const most = file.endsWith('x') && /^[A-Z]/.test(name) ? LONGEST_COMPONENT : LONGEST_FUNCTION
    if (lines > most) found.push(`${file}: ${name} has ${lines} lines, ${most} at the most; it wants to be several`)
    visit([id, key, body, ...Object.values(rest)], name)
  }
  visit(parseAst(source, { lang: file.endsWith('x') ? 'tsx' : 'ts' }), 'a function')
  return found
}
interface SyntaxNode {
  type: string
  id: { name?: string } | null
  key: { name?: string }
  body: unknown
  start: number
  end: number
}

/** The file of ours that is meant; null for a package. */
function fileMeant(file: string, specifier: string): string | null {
  if (specifier.startsWith('#')) return specifier.slice(1)
  return specifier.startsWith('.') ? normalize(join(dirname(file), specifier)) : null
}

const files = HOUSES.filter((name) => existsSync(name)).flatMap(filesIn)
const between = new Map<string, Set<string>>()
for (const file of files) {
  const house = houseOf(file)
  const source = readFileSync(file, 'utf8')
  if (source.split('\n').length > LONGEST) faults.push(`${file}: longer than ${LONGEST} lines; it wants to be two`)
  faults.push(...longFunctions(file, source))
  const ours = new Set<string>()
  between.set(file, ours)
  for (const { specifier, isType } of importsOf(file, source)) {
    const say = (rule: string) => faults.push(`${file}: imports ${specifier}, but ${rule}`)
    const meant = fileMeant(file, specifier)
    if (meant === null) {
      const name = specifier
        .split('/')
        .slice(0, specifier.startsWith('@') ? 2 : 1)
        .join('/')
      if (house === 'core' && !isTest(file) && !CORE_PACKAGES.has(name)) say('the core uses only small pure packages')
      continue
    }
    if (/\.tsx?$/.test(meant)) ours.add(meant)
    const other = houseOf(meant)
    if (file.startsWith('core/model/') && !isTest(file) && !/^core(\/model(\/moving)?|\/words)?$/.test(dirname(meant)))
      say('the model imports nothing outside itself but words and Zod')
    if (file.startsWith('core/words/') && !isTest(file) && !meant.startsWith('core/words/'))
      say('words import nothing outside themselves')
    if (other === house || ALLOWED[house]!.includes(other)) continue
    const typeOfApi = house === 'web' && other === 'server' && isType
    const testSound = house === 'core' && isTest(file) && (other === 'tests' || other === 'bench')
    if (!typeOfApi && !testSound) say(`${house} may import only ${ALLOWED[house]!.join(' and ') || 'from itself'}`)
  }
}

for (const group of circles(between)) faults.push(`These files import each other in a circle: ${group.join(', ')}`)

// a test looks at its own folder from outside: what it needs for that is no part of the house
const folders = new Map<string, Set<string>>()
for (const [file, ours] of between) {
  if (isTest(file)) continue
  const from = dirname(file)
  if (!folders.has(from)) folders.set(from, new Set())
  for (const meant of ours) if (dirname(meant) !== from) folders.get(from)!.add(dirname(meant))
}
for (const group of circles(folders)) faults.push(`These folders import each other in a circle: ${group.join(', ')}`)

const counts = new Map<string, number>()
for (const file of files) if (!GENERATED.has(file)) counts.set(dirname(file), (counts.get(dirname(file)) ?? 0) + 1)
for (const [folder, count] of counts)
  if (count > MOST_FILES) faults.push(`${folder}: ${count} files on one level, ${MOST_FILES} at the most; it wants folders`)

for (const fault of faults) console.error(fault)
console.log(faults.length === 0 ? 'The rules of the house hold.' : `${faults.length} faults`)
process.exit(faults.length === 0 ? 0 : 1)
