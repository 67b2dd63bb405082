/** Sites, as people write them. */

/** What a URL (URL Standard, §4.1) is read as; the core has no reader of its own. */
export type ReadUrl = (text: string) => { protocol: string; hostname: string; origin: string }

const HOST = /^(?:[a-z0-9_-]+\.)*[a-z0-9_-]+$|^\[[0-9a-f:.]+\]$/

/** @returns the origin (RFC 6454) of a site as a person writes it, https where they do not say; null for what is none */
export function originOf(written: string, read: ReadUrl): string | null {
  const text = written.trim()
  try {
    const { protocol, hostname, origin } = read(/^[a-z]+:\/\//i.test(text) ? text : `https://${text}`)
    return /^https?:$/.test(protocol) && HOST.test(hostname) ? origin : null
  } catch {
    return null
  }
}
