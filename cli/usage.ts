/** A call that cannot be understood; its message says how it is written. */
export class Usage extends Error {}

/** Reads arguments. @throws Usage with the given line when they do not fit */
export function orUsage<T>(parse: () => T, usage: string): T {
  try {
    return parse()
  } catch (error) {
    throw new Usage(`${(error as Error).message.split('. ')[0]}.\n${usage}`)
  }
}
