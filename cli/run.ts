/** One call of the command line, from its words to its exit code: 0 done, 1 failed, 2 wrong usage. */
import { DeckProblem } from '#core/deck/problem.ts'
import { type Message, message, say } from '#core/words/say.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { loadVoiceModel } from '#server/workers/load-voice-model.ts'
import type { Workers } from '#server/workers/pool.ts'
import { Help, Usage, usageOf } from './io/usage.ts'

/** Resolves to the exit code where it is not 0: 1 where something is wrong with what was given, and the rest was done. */
type Command = (args: string[], workers?: Workers) => Promise<unknown>

/** Each is loaded when it is called: all of them together take a second. */
const COMMANDS: Record<string, { about: Message; load: () => Promise<Command> }> = {
  make: {
    about: message('a folder with deck, sounds and scripts becomes a video'),
    load: async () => (await import('./make.ts')).make,
  },
  tidy: { about: message('one recording: clean, trim, level'), load: async () => (await import('./tidy.ts')).tidy },
  align: { about: message('captions of a recording from its script'), load: async () => (await import('./align.ts')).align },
  captions: { about: message('check or convert caption files'), load: async () => (await import('./captions.ts')).captions },
  split: { about: message('where a long recording changes slide'), load: async () => (await import('./split.ts')).split },
  import: {
    about: message('a lecture comes back from its bundle'),
    load: async () => (await import('./data-folder/bundles.ts')).importBundle,
  },
  export: {
    about: message('a lecture goes out as one open bundle'),
    load: async () => (await import('./data-folder/bundles.ts')).exportBundle,
  },
  backup: {
    about: message('a copy of all lectures, while the app runs'),
    load: async () => (await import('./data-folder/backups.ts')).backup,
  },
  restore: {
    about: message('all lectures as they were in a backup'),
    load: async () => (await import('./data-folder/backups.ts')).restore,
  },
  doctor: {
    about: message('whether all is well: database, files, disk, programs'),
    load: async () => (await import('./data-folder/doctor.ts')).doctor,
  },
  worker: {
    about: message('work for a server on another machine'),
    load: async () => (await import('./worker.ts')).worker,
  },
  store: {
    about: message('what is in a store of files elsewhere; --home brings everything back'),
    load: async () => (await import('./data-folder/store.ts')).store,
  },
  'found-again': {
    about: message('recordings that belong to no lecture, after a database was lost'),
    load: async () => (await import('./data-folder/found-again.ts')).foundAgain,
  },
}

function helpOfAll(): string {
  const calls = Object.entries(COMMANDS).map(([name, { about }]) => `  lectern ${name.padEnd(11)}  ${say(about)}`)
  return [usageOf('lectern …'), ...calls, say('Each tells with --help how it is called.')].join('\n')
}

/**
 * @param words of the call after the program's own name
 * @param workers threads that are warm already; without them a command that needs some starts its own
 * @returns the exit code; what is to be read went to standard output and standard error
 */
export async function run([name = '', ...args]: readonly string[], workers?: Workers): Promise<number> {
  try {
    if (name === '--help' || name === '-h' || name === 'help') throw new Help(helpOfAll())
    const asked = COMMANDS[name]
    if (!asked) throw new Usage(helpOfAll())
    const command = await asked.load()
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
      `${usage || error instanceof UserFacingError || error instanceof DeckProblem ? error.message : say('This failed: {reason}', { reason: (error as Error).message })}\n`,
    )
    return usage ? 2 : 1
  }
}
