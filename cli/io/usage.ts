import { say } from '#core/words/say.ts'

/** A call that cannot be understood; its message says how it is written. */
export class Usage extends Error {}

/** Somebody asked how a call is written. */
export class Help extends Error {}

/** How a call is written, in the reader's language; words in capitals stand for names of theirs. */
export const usageOf = (call: string): string => say('Usage: {call}', { call })

/** Reads arguments. @throws Usage with the given line when they do not fit, Help with it when it was asked for */
export function orUsage<T>(args: readonly string[], parse: () => T, usage: string): T {
  if (args.includes('--help') || args.includes('-h')) throw new Help(usage)
  try {
    return parse()
  } catch (error) {
    throw new Usage(`${(error as Error).message.split('. ')[0]}.\n${usage}`)
  }
}
