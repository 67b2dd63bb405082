/** One call of the command line, from its words to its exit code: 0 done, 1 failed, 2 wrong usage. */
import { DeckProblem } from '#core/deck/problem.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { loadVoiceModel } from '#server/workers/load-voice-model.ts'
import type { Workers } from '#server/workers/pool.ts'
import { Help, Usage } from './usage.ts'

/** Resolves to the exit code where it is not 0: 1 where something is wrong with what was given, and the rest was done. */
type Command = (args: string[], workers?: Workers) => Promise<unknown>

/** Each is loaded when it is called: all of them together take a second. */
const COMMANDS: Record<string, () => Promise<Command>> = {
  make: async () => (await import('./make.ts')).make,
  tidy: async () => (await import('./tidy.ts')).tidy,
  align: async () => (await import('./align.ts')).align,
  captions: async () => (await import('./captions.ts')).captions,
  split: async () => (await import('./split.ts')).split,
  import: async () => (await import('./bundles.ts')).importBundle,
  export: async () => (await import('./bundles.ts')).exportBundle,
  'found-again': async () => (await import('./found-again.ts')).foundAgain,
}

/**
 * @param words of the call after the program's own name
 * @param workers threads that are warm already; without them a command that needs some starts its own
 * @returns the exit code; what is to be read went to standard output and standard error
 */
export async function run([name = '', ...args]: readonly string[], workers?: Workers): Promise<number> {
  try {
    const load = COMMANDS[name]
    const all = `Usage: lectern ${Object.keys(COMMANDS).join(' | ')} …\nEach tells with --help how it is called.`
    if (name === '--help' || name === '-h' || name === 'help') throw new Help(all)
    if (!load) throw new Usage(all)
    const command = await load()
    loadVoiceModel()
    const code = await command(args, workers)
    return typeof code === 'number' ? code : 0
  } catch (error) {
    if (error instanceof Help) {
      process.stdout.write(`${error.message}\n`)
      return 0
    }
    const usage = error instanceof Usage
    process.stderr.write(
      `${usage || error instanceof UserFacingError || error instanceof DeckProblem ? error.message : `This failed: ${(error as Error).message}`}\n`,
    )
    return usage ? 2 : 1
  }
}
