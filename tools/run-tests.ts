/**
 * Runs every check and test and ends with one line that counts them all. `--long` runs what is long by nature as well: every fault, a hundred
 * thousand changes of a file, the browser standing still in every way.
 */
import { spawn } from 'node:child_process'
import { once } from 'node:events'
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { stripVTControlCharacters } from 'node:util'

const began = Date.now()
if (process.argv.includes('--long')) process.env.LECTERN_LONG = '1'
const REAL_TIME =
  '    its sound plays as long as it lasts: where the processor is taken away for seconds, some of it is lost before the page has it'
/** Tests that may need a second try, each with its reason. */
const MAY_NEED_ANOTHER_TRY: Record<string, string> = {
  'a lecture is recorded straight through; what the microphone played is there, to the sample, on the slides it was for':
    REAL_TIME,
  'the page and its audio thread stand still while it is recorded: no sample is missing, changed or twice': REAL_TIME,
  'a microphone that gave nothing for a while is told of beside the take: read from its track': REAL_TIME,
  'a mark stands where the key was pressed, however long the page was busy then': REAL_TIME,
  'while it is recorded the sentence that is said is marked, and the mark goes on': REAL_TIME,
  'straight through each slide is followed by its own words, from the moment it is shown': REAL_TIME,
  'server killed while recording: what was acknowledged is there, and all that the browser had': REAL_TIME,
}

const results = '.cache/results'
rmSync(results, { recursive: true, force: true })
mkdirSync(results, { recursive: true })
let [passed, failed] = [0, 0]
/** What the last lines repeat, so that nobody has to look for it further up. */
const faults: string[] = []
const times: { seconds: number; name: string }[] = []

// the tests open hundreds of data folders: in memory they do not wait for a slow disk
const memory = '/dev/shm'
if (!process.env.TMPDIR && existsSync(memory)) process.env.TMPDIR = mkdtempSync(join(memory, 'lectern-tests-'))

async function run(name: string, command: string[], environment: NodeJS.ProcessEnv = {}): Promise<boolean> {
  console.log(`\n— ${name}`)
  const began = Date.now()
  const child = spawn('npx', ['--no-install', ...command], {
    stdio: ['ignore', 'inherit', 'inherit'],
    env: { ...process.env, ...environment },
  })
  const [status] = (await once(child, 'close')) as [number | null]
  console.log(`  ${name}: ${status === 0 ? 'passed' : 'FAILED'} after ${Math.round((Date.now() - began) / 1000)} s`)
  return status === 0
}

/** A check counts as one. */
async function check(name: string, ...command: string[]) {
  if (await run(name, command)) passed++
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
  times: { seconds: number; name: string }[]
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
async function tests(
  name: string,
  command: string[],
  count: (report: string) => Counted,
  file: string,
  environment: NodeJS.ProcessEnv = {},
) {
  const good = await run(name, command, environment)
  const report = join(results, file)
  const counted = existsSync(report) ? count(readFileSync(report, 'utf8')) : { passed: 0, failed: 0, faults: [], times: [] }
  passed += counted.passed
  failed += counted.failed + (!good && counted.failed === 0 ? 1 : 0)
  faults.push(...counted.faults)
  times.push(...counted.times)
  if (!good && counted.failed === 0) faults.push(`FAILED ${name}: the runner itself`)
}

interface VitestReport {
  numPassedTests: number
  numFailedTests: number
  testResults: { assertionResults: { status: string; fullName: string; duration?: number | null; failureMessages: string[] }[] }[]
}

interface PlaywrightSuite {
  specs: { title: string; tests: { status: string; results: { duration: number; error?: { message?: string } }[] }[] }[]
  suites?: PlaywrightSuite[]
}
interface PlaywrightReport {
  stats: { expected: number; unexpected: number; flaky: number }
  suites: PlaywrightSuite[]
}
const specsOf = (suite: PlaywrightSuite): PlaywrightSuite['specs'] => [...suite.specs, ...(suite.suites ?? []).flatMap(specsOf)]

const vitest = (...projects: string[]) =>
  tests(
    `tests: ${projects.join(', ')}`,
    [
      ...['vitest', 'run', ...projects.flatMap((project) => ['--project', project])],
      ...['--reporter=dot', '--reporter=json', `--outputFile.json=${results}/${projects[0]}.json`],
    ],
    (report) => {
      const { numPassedTests, numFailedTests, testResults } = JSON.parse(report) as VitestReport
      const broken = testResults.flatMap((file) => file.assertionResults).filter((test) => test.status === 'failed')
      return {
        passed: numPassedTests,
        failed: numFailedTests,
        faults: broken.map((test) => `FAILED ${test.fullName}\n${brief(test.failureMessages[0])}`),
        times: testResults
          .flatMap((file) => file.assertionResults)
          .map(({ duration, fullName }) => ({ seconds: (duration ?? 0) / 1000, name: fullName })),
      }
    },
    `${projects[0]}.json`,
    // a line of dots, and not of their colours
    { NO_COLOR: '1' },
  )

const playwright = (name: string, project: string, workers = 2) =>
  tests(
    name,
    [
      ...['playwright', 'test', '--project', project, '--no-deps', '--workers', String(workers)],
      ...['--output', `.cache/e2e/${project}`, '--reporter=line,json'],
    ],
    (report) => {
      const { stats, suites } = JSON.parse(report) as PlaywrightReport
      const broken = suites.flatMap(specsOf).flatMap((spec) => spec.tests.map((test) => ({ ...test, title: spec.title })))
      const flaky = broken.filter((test) => test.status === 'flaky')
      const unlisted = flaky.filter((test) => MAY_NEED_ANOTHER_TRY[test.title] === undefined)
      return {
        passed: stats.expected + flaky.length - unlisted.length,
        failed: stats.unexpected + unlisted.length,
        faults: broken
          .filter((test) => test.status === 'unexpected' || test.status === 'flaky')
          .map(
            (test) =>
              `${test.status === 'flaky' ? 'SECOND TRY' : 'FAILED'} ${test.title}\n${MAY_NEED_ANOTHER_TRY[test.title] ?? brief(test.results[0]?.error?.message)}`,
          ),
        times: broken.map((test) => ({
          seconds: test.results.reduce((sum, result) => sum + result.duration, 0) / 1000,
          name: test.title,
        })),
      }
    },
    `${project}.json`,
    { PLAYWRIGHT_JSON_OUTPUT_NAME: `${results}/${project}.json` },
  )

// two lines of checks at a time: each of them keeps one processor busy
await Promise.all([
  (async () => {
    await check('format and lint', 'biome', 'ci', '.')
    await check('rules of the house', 'tsx', 'tools/check-house.ts')
    await check('every message in every language', 'tsx', 'tools/words/check.ts')
    await check('build of the web side', 'vite', 'build', '--logLevel', 'warn')
    await check('build of the learners’ page', 'tsx', 'tools/build-watch-pages.ts')
    await check('its files compressed', 'tsx', 'tools/compress-assets.ts')
    await check('build of the server', 'tsx', 'tools/build-server.ts')
  })(),
  (async () => {
    await check('types', 'tsc', '--build')
    await check('kernels are those of their source', 'tsx', 'tools/build-kernels.ts', '--check')
    await check('characters of the fonts are those of their files', 'tsx', 'tools/font-coverage.ts', '--check')
    await check('page of the tables', 'tsx', 'tools/schema-picture.ts', '--check')
  })(),
])
// one after another: each of them keeps both processors busy, and beside each other they only wait for one another
await vitest('unit', 'reference')
await vitest('api')
// journeys wait for pages as well: three at a time leave no processor idle
await playwright('tests: in the browser', 'journeys', 3)
await playwright('tests: recording in the browser', 'recording')
// sound that is captured is compared to the sample: nothing may take the processor from the browser's microphone meanwhile
await playwright('tests: captured sound', 'capture')

if (process.env.TMPDIR?.startsWith(memory)) rmSync(process.env.TMPDIR, { recursive: true, force: true })
if (faults.length) console.log(`\n${faults.join('\n')}`)
const slowest = times.toSorted((a, b) => b.seconds - a.seconds).slice(0, 10)
console.log(`\nThe ten slowest tests:\n${slowest.map(({ seconds, name }) => `  ${seconds.toFixed(1)} s  ${name}`).join('\n')}`)
console.log(`\nAll of it took ${((Date.now() - began) / 60_000).toFixed(1)} minutes.`)
console.log(`\n${passed} passed, ${failed} failed`)
process.exit(failed === 0 ? 0 : 1)
