/**
 * Writes down which characters each file of the shipped families can draw (`server/text/coverage.json`): what packages say of their files
 * themselves names many that are not in them. `--check` compares with what is written there.
 */
import { readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { dirname, join } from 'node:path'
import { openSync } from 'fontkit'
import { encodeRanges } from '#server/text/coverage.ts'
import { ALPHABETS, FAMILIES, type Family } from '#server/text/families.ts'

const OUTPUT = 'server/text/coverage.json'

/** Letters that stand among signs, such as an aleph of mathematics, would tear words of another alphabet apart. */
const SIGNS_OF_ALPHABET = /-(math|symbols)-/

/** Characters that a package says a file is for, whether it has them or not. */
function meantFor(folder: string, family: Family): Map<string, Set<number>> {
  const told = JSON.parse(readFileSync(join(folder, '../unicode.json'), 'utf8')) as Record<string, string>
  const name = family.package.split('/')[1]!
  return new Map(
    Object.entries(told).map(([subset, ranges]) => {
      const codes = new Set<number>()
      for (const range of ranges.split(',')) {
        const [first, last = first] = range.replace('U+', '').split('-')
        for (let code = Number.parseInt(first!, 16); code <= Number.parseInt(last!, 16); code++) codes.add(code)
      }
      return [`${name}-${subset.replace(/[[\]]/g, '')}-${family.weight}-normal.woff2`, codes]
    }),
  )
}

/** Each character of a family belongs to one of its files: the one that is meant for it, else the largest that has it. */
function filesOf(family: Family): Record<string, string> {
  const folder = join(dirname(createRequire(import.meta.url).resolve(`${family.package}/package.json`)), 'files')
  const ending = new RegExp(`-${family.weight}-normal\\.woff2$`)
  const isWanted = (name: string) => ending.test(name) && !(ALPHABETS.includes(family) && SIGNS_OF_ALPHABET.test(name))
  const has = new Map<string, number[]>()
  for (const file of readdirSync(folder).filter(isWanted).sort()) {
    const font = openSync(join(folder, file))
    if (!('characterSet' in font)) throw new Error(`${file} holds more than one font`)
    has.set(
      file,
      font.characterSet.filter((code) => code >= 0x20),
    )
  }
  const meant = meantFor(folder, family)
  const owner = new Map<number, string>()
  for (const [file, codes] of has) for (const code of codes) if (meant.get(file)?.has(code)) owner.set(code, file)
  const bySize = [...has].sort(([, a], [, b]) => b.length - a.length)
  for (const [file, codes] of bySize) for (const code of codes) if (!owner.has(code)) owner.set(code, file)
  return Object.fromEntries(
    [...has].map(([file, codes]) => [file, encodeRanges(codes.filter((code) => owner.get(code) === file))]),
  )
}

const coverage = Object.fromEntries(FAMILIES.map((family) => [family.name, filesOf(family)]))
const text = `${JSON.stringify(coverage, null, 2)}\n`
if (!process.argv.includes('--check')) writeFileSync(OUTPUT, text)
else if (readFileSync(OUTPUT, 'utf8') !== text) {
  console.error(`${OUTPUT} is not what the installed fonts hold: run npm run fonts:coverage`)
  process.exit(1)
}
