/** A call that cannot be understood; its message says how it is written. */
export class Usage extends Error {}

/** Somebody asked how a call is written. */
export class Help extends Error {}

/** Reads arguments. @throws Usage with the given line when they do not fit, Help with it when it was asked for */
export function orUsage<T>(args: readonly string[], parse: () => T, usage: string): T {
  if (args.includes('--help') || args.includes('-h')) throw new Help(usage)
  try {
    return parse()
  } catch (error) {
    throw new Usage(`${(error as Error).message.split('. ')[0]}.\n${usage}`)
  }
}
