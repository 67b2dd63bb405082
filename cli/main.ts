/** The command line: the same core and server modules without a browser. Exit codes: 0 done, 1 failed, 2 wrong usage. */
import { DeckProblem } from '#core/deck/problem.ts'
import { Sentence } from '#server/sentence.ts'
import { align } from './align.ts'
import { exportBundle, importBundle } from './bundles.ts'
import { captions } from './captions.ts'
import { foundAgain } from './found-again.ts'
import { make } from './make.ts'
import { split } from './split.ts'
import { tidy } from './tidy.ts'
import { Help, Usage } from './usage.ts'

const COMMANDS: Record<string, (args: string[]) => Promise<void>> = {
  make,
  tidy,
  align,
  captions,
  split,
  import: importBundle,
  export: exportBundle,
  'found-again': foundAgain,
}

const [name = '', ...args] = process.argv.slice(2)
try {
  const command = COMMANDS[name]
  const all = `Usage: lectern ${Object.keys(COMMANDS).join(' | ')} …\nEach tells with --help how it is called.`
  if (name === '--help' || name === '-h' || name === 'help') throw new Help(all)
  if (!command) throw new Usage(all)
  await command(args)
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
