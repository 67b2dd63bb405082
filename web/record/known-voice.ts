/** What this browser shows to be somebody who came by a link before; gone with the page where it can keep nothing. */
const KEY = (token: string) => `voice of ${token}`

let unkept: Record<string, string> = {}

/** A learning platform says after the # who comes: nothing of it stays in the address. */
function sentVoice(token: string): string | null {
  const key = location.hash.slice(1)
  if (!/^[\w-]+\.[\w-]+$/.test(key)) return null
  history.replaceState(null, '', location.pathname)
  keepVoice(token, key)
  return key
}

export function knownVoice(token: string): string {
  const sent = sentVoice(token)
  if (sent !== null) return sent
  try {
    return localStorage.getItem(KEY(token)) ?? unkept[token] ?? ''
  } catch {
    return unkept[token] ?? ''
  }
}

export function keepVoice(token: string, key: string) {
  unkept = { ...unkept, [token]: key }
  try {
    localStorage.setItem(KEY(token), key)
  } catch {
    // as long as the page is open it is known
  }
}
