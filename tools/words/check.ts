/**
 * Checks that every message of the code has its translations, that none is left over, and that each wants the values its English text wants.
 * With `--missing LANGUAGE` it prints what is missing as JSON; with `--prune` it takes away what nothing says any more, and sorts.
 */
import { writeFileSync } from 'node:fs'
import { isLanguage } from '#core/words/languages.ts'
import { catalogueFile, compiled, faultsOf, readCatalogue, TRANSLATED } from './catalogues.ts'
import { allMessages } from './messages.ts'

const { messages, faults } = allMessages()
const sorted = [...messages].sort((a, b) => (a < b ? -1 : 1))
const option = (name: string) => (process.argv.includes(name) ? (process.argv[process.argv.indexOf(name) + 1] ?? '') : null)

const asked = option('--missing')
if (asked !== null) {
  if (!isLanguage(asked)) throw new Error(`“${asked}” is no language of the product.`)
  const has = readCatalogue(asked)
  console.log(
    JSON.stringify(
      sorted.filter((text) => has[text] === undefined),
      null,
      1,
    ),
  )
  process.exit(0)
}

for (const text of sorted) {
  try {
    compiled(text)
  } catch (error) {
    faults.push((error as Error).message)
  }
}
for (const language of TRANSLATED) {
  const catalogue = readCatalogue(language)
  if (process.argv.includes('--prune')) {
    const kept = Object.fromEntries(sorted.flatMap((text) => (catalogue[text] === undefined ? [] : [[text, catalogue[text]]])))
    writeFileSync(catalogueFile(language), `${JSON.stringify(kept, null, 2)}\n`)
    continue
  }
  for (const text of sorted) {
    const translation = catalogue[text]
    if (translation === undefined) faults.push(`${language}: “${text}” is not translated`)
    else for (const fault of faultsOf(language, text, translation)) faults.push(`${language}: “${text}”: ${fault}`)
  }
  for (const text of Object.keys(catalogue)) if (!messages.has(text)) faults.push(`${language}: nothing says “${text}”`)
}
for (const fault of faults.slice(0, 60)) console.error(fault)
if (faults.length > 0) {
  console.error(`${faults.length} faults`)
  process.exit(1)
}
console.log(`${messages.size} messages in ${TRANSLATED.length + 1} languages`)
