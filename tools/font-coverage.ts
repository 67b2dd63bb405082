/**
 * Writes down which characters each file of the shipped families can draw (`server/text/coverage.json`): what packages say of their files
 * themselves names many that are not in them. `--check` compares with what is written there.
 */
import { readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { dirname, join } from 'node:path'
import { openSync } from 'fontkit'
import { encodeRanges } from '#server/text/coverage.ts'
import { FAMILIES } from '#server/text/families.ts'

const OUTPUT = 'server/text/coverage.json'

const coverage: Record<string, Record<string, string>> = {}
for (const family of FAMILIES) {
  const folder = join(dirname(createRequire(import.meta.url).resolve(`${family.package}/package.json`)), 'files')
  const ending = new RegExp(`-${family.weight}-normal\\.woff2$`)
  const files: Record<string, string> = {}
  for (const file of readdirSync(folder)
    .filter((name) => ending.test(name))
    .sort()) {
    const font = openSync(join(folder, file))
    if (!('characterSet' in font)) throw new Error(`${file} holds more than one font`)
    // what is no letter and has no picture is drawn by no font
    files[file] = encodeRanges(font.characterSet.filter((code) => code >= 0x20))
  }
  coverage[family.name] = files
}
const text = `${JSON.stringify(coverage, null, 1)}\n`
if (!process.argv.includes('--check')) writeFileSync(OUTPUT, text)
else if (readFileSync(OUTPUT, 'utf8') !== text) {
  console.error(`${OUTPUT} is not what the installed fonts hold: run npm run fonts:coverage`)
  process.exit(1)
}
