/** What the browser remembers for a learner. A page opened from a disk may not be allowed to: then nothing is remembered. */
export function recall(key: string): string | null {
  try {
    return localStorage.getItem(`watch ${key}`)
  } catch {
    return null
  }
}

export function remember(key: string, value: string) {
  try {
    localStorage.setItem(`watch ${key}`, value)
  } catch {
    // nothing is lost but a comfort
  }
}
