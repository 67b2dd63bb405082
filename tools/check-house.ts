/** Checks the rules of the house: who may import whom, and that the core stays pure. */
import { existsSync, readdirSync, readFileSync, statSync } from 'node:fs'
import { dirname, join, relative, resolve } from 'node:path'

const HOUSES = ['core', 'server', 'web', 'cli', 'demo', 'bench', 'tests', 'tools']
/** Small pure packages that the core may use. */
const CORE_PACKAGES = new Set(['zod', 'entities', 'fflate', 'fast-xml-parser', 'marked'])
const LONGEST = 450

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

function files(folder: string): string[] {
  return readdirSync(folder).flatMap((name) => {
    const path = join(folder, name)
    if (statSync(path).isDirectory()) return files(path)
    return /\.tsx?$/.test(name) ? [path] : []
  })
}

function houseOf(file: string, specifier: string): string | null {
  if (specifier.startsWith('#')) return specifier.slice(1).split('/')[0]!
  if (specifier.startsWith('.')) return relative('.', resolve(dirname(file), specifier)).split('/')[0]!
  return null
}

for (const house of HOUSES.filter((name) => existsSync(name))) {
  for (const file of files(house)) {
    const source = readFileSync(file, 'utf8')
    const isTest = file.endsWith('.test.ts')
    if (source.split('\n').length > LONGEST) faults.push(`${file}: longer than ${LONGEST} lines; it wants to be two`)
    for (const [, kind, specifier] of source.matchAll(/^(?:import|export)\s+(type\s)?[^'"]*?from\s+'([^']+)'/gms)) {
      const other = houseOf(file, specifier!)
      const say = (rule: string) => faults.push(`${file}: imports ${specifier}, but ${rule}`)
      if (other === null) {
        const name = specifier!
          .split('/')
          .slice(0, specifier!.startsWith('@') ? 2 : 1)
          .join('/')
        if (house === 'core' && !isTest && !CORE_PACKAGES.has(name)) say('the core uses only small pure packages')
      } else if (other !== house && !ALLOWED[house]!.includes(other)) {
        const typeOfApi = house === 'web' && other === 'server' && kind
        const testSound = house === 'core' && isTest && (other === 'tests' || other === 'bench')
        if (!typeOfApi && !testSound) say(`${house} may import only ${ALLOWED[house]!.join(' and ') || 'from itself'}`)
      }
    }
  }
}

for (const fault of faults) console.error(fault)
console.log(faults.length === 0 ? 'The rules of the house hold.' : `${faults.length} faults`)
process.exit(faults.length === 0 ? 0 : 1)
