/** Pictures that were brought for a lecture and that nothing of it uses yet: who brought one sees it at once. */

const MOST_REMEMBERED = 1000
const brought = new Map<string, string>()

export function bringFor(lectureId: string, file: string) {
  brought.delete(file)
  brought.set(file, lectureId)
  if (brought.size > MOST_REMEMBERED) brought.delete(brought.keys().next().value!)
}

/** @returns the lecture a file was just brought for; null where none was */
export const broughtFor = (file: string): string | null => brought.get(file) ?? null
