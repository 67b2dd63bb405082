/**
 * How many small changes of the code the unit tests notice. `npm run mutation` measures all of `GROUPS`, `npm run mutation -- timing` one.
 *
 * By hand, for it takes half an hour: each change is tried by the tests that run the changed line. The mutation tool is installed
 * into a copy of the tree, so that nobody who only builds the project has to fetch it.
 */
import { execFileSync } from 'node:child_process'
import { cpSync, existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { join, resolve } from 'node:path'

const TOOL = ['@stryker-mutator/core@9.6.1', '@stryker-mutator/vitest-runner@9.6.1']
/** What is measured: the core that computes with numbers and words, not with sound. */
const GROUPS: Record<string, string> = {
  model: 'core/model/**/*.ts',
  timing: 'core/timing/*.ts',
  edition: 'core/edition/**/*.ts',
  'caption checks': 'core/captions/checks/*.ts',
  'caption edits': 'core/captions/edit/*.ts',
  'caption making': 'core/captions/generate/*.ts',
  'caption tracks': 'core/captions/tracks/*.ts',
  'takes compared': 'core/captions/compare/*.ts',
  'caption files': 'core/captions/formats/**/*.ts',
}
const TESTS = `import { defineConfig } from 'vitest/config'
export default defineConfig({
  test: {
    include: ['core/{bundle,captions,edition,model,script,timing}/**/*.test.ts'],
    exclude: ['core/captions/align/**', '**/node_modules/**'],
    setupFiles: ['tests/support/property-seed.ts'],
    testTimeout: 60_000,
    // half a minute for each of its lines
    testNamePattern: '^(?!.*thrown and the cues stay few)',
  },
})
`

const root = resolve(import.meta.dirname, '..')
const copy = join(root, '.cache/mutation')

function prepare() {
  const files = execFileSync('git', ['ls-files', '--cached', '--others', '--exclude-standard', '-z'], { cwd: root }).toString()
  if (existsSync(join(copy, 'core'))) rmSync(join(copy, 'core'), { recursive: true })
  for (const file of files.split('\0').filter((name) => name !== '' && existsSync(join(root, name))))
    cpSync(join(root, file), join(copy, file))
  writeFileSync(join(copy, 'vitest.mutation.config.ts'), TESTS)
  execFileSync('npm', ['install', '--no-save', '--no-audit', '--no-fund', ...TOOL], { cwd: copy, stdio: 'inherit' })
}

interface Report {
  files: Record<string, { mutants: { status: string; location: { start: { line: number } }; replacement?: string }[] }>
}

/** Measures one group; words of messages, and what is worked out once when a file is loaded, are left alone. */
function measured(name: string, mutate: string): Report {
  const report = join(copy, 'reports', `${name.replaceAll(' ', '-')}.json`)
  mkdirSync(join(copy, 'reports'), { recursive: true })
  const config = {
    testRunner: 'vitest',
    vitest: { configFile: 'vitest.mutation.config.ts' },
    plugins: ['@stryker-mutator/vitest-runner'],
    coverageAnalysis: 'perTest',
    ignoreStatic: true,
    mutate: [mutate, '!core/**/*.test.ts'],
    mutator: { excludedMutations: ['StringLiteral'] },
    disableTypeChecks: false,
    tsconfigFile: 'no-tsconfig.json',
    reporters: ['json'],
    jsonReporter: { fileName: report },
    symlinkNodeModules: true,
    timeoutMS: 3000,
    concurrency: 2,
  }
  writeFileSync(join(copy, 'stryker.config.json'), JSON.stringify(config))
  execFileSync('npx', ['stryker', 'run'], { cwd: copy, stdio: ['ignore', 'ignore', 'inherit'] })
  return JSON.parse(readFileSync(report, 'utf8'))
}

const NOTICED = ['Killed', 'Timeout']
const UNNOTICED = ['Survived', 'NoCoverage']

const wanted = process.argv.slice(2)
const unknown = wanted.filter((name) => !(name in GROUPS))
if (unknown.length > 0) {
  console.error(`There is no group “${unknown[0]}”. Groups are: ${Object.keys(GROUPS).join(', ')}.`)
  process.exit(1)
}
prepare()
let [noticed, all] = [0, 0]
for (const [name, mutate] of Object.entries(GROUPS)) {
  if (wanted.length > 0 && !wanted.includes(name)) continue
  let [own, of] = [0, 0]
  for (const [file, { mutants }] of Object.entries(measured(name, mutate).files)) {
    const missed = mutants.filter((mutant) => UNNOTICED.includes(mutant.status))
    const killed = mutants.filter((mutant) => NOTICED.includes(mutant.status)).length
    own += killed
    of += killed + missed.length
    if (missed.length > 0) console.log(`  ${file}: ${killed} of ${killed + missed.length} noticed`)
    for (const { location, replacement = '' } of missed)
      console.log(`    line ${location.start.line}: ${replacement.replaceAll(/\s+/g, ' ').slice(0, 90)}`)
  }
  console.log(`${name}: ${own} of ${of} noticed (${((100 * own) / Math.max(1, of)).toFixed(1)} %)`)
  noticed += own
  all += of
}
console.log(`All: ${noticed} of ${all} noticed (${((100 * noticed) / Math.max(1, all)).toFixed(1)} %)`)
