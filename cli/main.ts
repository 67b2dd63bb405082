/** The command line: the same core and server modules without a browser. Exit codes: 0 done, 1 failed, 2 wrong usage. */
import { DeckProblem } from '#core/deck/problem.ts'
import { Sentence } from '#server/sentence.ts'
import { Help, Usage } from './usage.ts'

/** Each is loaded when it is called: all of them together take a second. */
const COMMANDS: Record<string, () => Promise<(args: string[]) => Promise<void>>> = {
  make: async () => (await import('./make.ts')).make,
  tidy: async () => (await import('./tidy.ts')).tidy,
  align: async () => (await import('./align.ts')).align,
  captions: async () => (await import('./captions.ts')).captions,
  split: async () => (await import('./split.ts')).split,
  import: async () => (await import('./bundles.ts')).importBundle,
  export: async () => (await import('./bundles.ts')).exportBundle,
  'found-again': async () => (await import('./found-again.ts')).foundAgain,
}

const [name = '', ...args] = process.argv.slice(2)
try {
  const load = COMMANDS[name]
  const all = `Usage: lectern ${Object.keys(COMMANDS).join(' | ')} …\nEach tells with --help how it is called.`
  if (name === '--help' || name === '-h' || name === 'help') throw new Help(all)
  if (!load) throw new Usage(all)
  await (await load())(args)
} catch (error) {
  if (error instanceof Help) {
    process.stdout.write(`${error.message}\n`)
    process.exit(0)
  }
  const usage = error instanceof Usage
  process.stderr.write(
    `${usage || error instanceof Sentence || error instanceof DeckProblem ? error.message : `This failed: ${(error as Error).message}`}\n`,
  )
  process.exitCode = usage ? 2 : 1
}
