/** Runs every check and test in turn and ends with one line that counts them all. */
import { spawnSync } from 'node:child_process'
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { stripVTControlCharacters } from 'node:util'

const results = '.cache/results'
rmSync(results, { recursive: true, force: true })
mkdirSync(results, { recursive: true })
let [passed, failed] = [0, 0]
/** What the last lines repeat, so that nobody has to look for it further up. */
const faults: string[] = []

// the tests open hundreds of data folders: in memory they do not wait for a slow disk
const memory = '/dev/shm'
if (!process.env.TMPDIR && existsSync(memory)) process.env.TMPDIR = mkdtempSync(join(memory, 'lectern-tests-'))

function run(name: string, command: string[], environment: NodeJS.ProcessEnv = {}): boolean {
  console.log(`\n— ${name}`)
  const began = Date.now()
  const { status } = spawnSync('npx', ['--no-install', ...command], {
    stdio: ['ignore', 'inherit', 'inherit'],
    env: { ...process.env, ...environment },
  })
  console.log(`  ${status === 0 ? 'passed' : 'FAILED'} after ${Math.round((Date.now() - began) / 1000)} s`)
  return status === 0
}

/** A check counts as one. */
function check(name: string, ...command: string[]) {
  if (run(name, command)) passed++
  else {
    failed++
    faults.push(`FAILED ${name}`)
  }
}

interface Counted {
  passed: number
  failed: number
  /** A line or more for each test that failed, or passed only at its second try. */
  faults: string[]
}

/** The first lines of what a test said, without colours. */
const brief = (message = '') =>
  stripVTControlCharacters(message)
    .split('\n')
    .filter((line) => line.trim())
    .slice(0, 12)
    .map((line) => `    ${line}`)
    .join('\n')

/** Tests count one by one; a runner that fails without naming a test counts as one failure. */
function tests(
  name: string,
  command: string[],
  count: (report: string) => Counted,
  file: string,
  environment: NodeJS.ProcessEnv = {},
) {
  const good = run(name, command, environment)
  const report = join(results, file)
  const counted = existsSync(report) ? count(readFileSync(report, 'utf8')) : { passed: 0, failed: 0, faults: [] }
  passed += counted.passed
  failed += counted.failed + (!good && counted.failed === 0 ? 1 : 0)
  faults.push(...counted.faults)
  if (!good && counted.failed === 0) faults.push(`FAILED ${name}: the runner itself`)
}

interface VitestReport {
  numPassedTests: number
  numFailedTests: number
  testResults: { assertionResults: { status: string; fullName: string; failureMessages: string[] }[] }[]
}

interface PlaywrightSuite {
  specs: { title: string; tests: { status: string; results: { error?: { message?: string } }[] }[] }[]
  suites?: PlaywrightSuite[]
}
interface PlaywrightReport {
  stats: { expected: number; unexpected: number; flaky: number }
  suites: PlaywrightSuite[]
}
const specsOf = (suite: PlaywrightSuite): PlaywrightSuite['specs'] => [...suite.specs, ...(suite.suites ?? []).flatMap(specsOf)]

const vitest = (project: string) =>
  tests(
    `tests: ${project}`,
    ['vitest', 'run', '--project', project, '--reporter=dot', '--reporter=json', `--outputFile.json=${results}/${project}.json`],
    (report) => {
      const { numPassedTests, numFailedTests, testResults } = JSON.parse(report) as VitestReport
      const broken = testResults.flatMap((file) => file.assertionResults).filter((test) => test.status === 'failed')
      return {
        passed: numPassedTests,
        failed: numFailedTests,
        faults: broken.map((test) => `FAILED ${test.fullName}\n${brief(test.failureMessages[0])}`),
      }
    },
    `${project}.json`,
  )

check('format and lint', 'biome', 'ci', '.')
check('rules of the house', 'tsx', 'tools/check-house.ts')
check('types', 'tsc', '--build')
check('kernels are those of their source', 'tsx', 'tools/build-kernels.ts', '--check')
check('build of the web side', 'vite', 'build', '--logLevel', 'warn')
check('build of the folder page', 'tsx', 'tools/build-folder-page.ts')
check('build of the server', 'tsx', 'tools/build-server.ts')
vitest('unit')
vitest('api')
vitest('reference')
tests(
  'tests: in the browser',
  ['playwright', 'test', '--reporter=line,json'],
  (report) => {
    const { stats, suites } = JSON.parse(report) as PlaywrightReport
    const broken = suites.flatMap(specsOf).flatMap((spec) => spec.tests.map((test) => ({ ...test, title: spec.title })))
    return {
      passed: stats.expected + stats.flaky,
      failed: stats.unexpected,
      faults: broken
        .filter((test) => test.status === 'unexpected' || test.status === 'flaky')
        .map(
          (test) =>
            `${test.status === 'flaky' ? 'SECOND TRY' : 'FAILED'} ${test.title}\n${brief(test.results[0]?.error?.message)}`,
        ),
    }
  },
  'e2e.json',
  { PLAYWRIGHT_JSON_OUTPUT_NAME: `${results}/e2e.json` },
)

if (process.env.TMPDIR?.startsWith(memory)) rmSync(process.env.TMPDIR, { recursive: true, force: true })
if (faults.length) console.log(`\n${faults.join('\n')}`)
console.log(`\n${passed} passed, ${failed} failed`)
process.exit(failed === 0 ? 0 : 1)
