/** Scripts as they would be said, asked of the server once each; that of the slide after is asked for before it is shown. */

/** Scripts that are remembered: a slide, those beside it, and one that was just changed. */
const MOST_REMEMBERED = 4

const asked = new Map<string, Promise<ArrayBuffer | null>>()

async function ask(script: string, language: string): Promise<ArrayBuffer | null> {
  try {
    const answer = await fetch('/api/scripts/spoken', {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ script, language }),
    })
    return answer.status === 200 ? await answer.arrayBuffer() : null
  } catch {
    return null
  }
}

/** A script as it would be said; null where there is no voice for its language, or the server is away: the rests alone are followed then. */
export function spokenScript(script: string, language: string): Promise<ArrayBuffer | null> {
  if (script.trim() === '') return Promise.resolve(null)
  const key = `${language}\n${script}`
  const answer = asked.get(key) ?? ask(script, language)
  // asked for last, remembered longest
  asked.delete(key)
  asked.set(key, answer)
  for (const old of asked.keys()) if (asked.size > MOST_REMEMBERED) asked.delete(old)
  // what could not be had is asked for again the next time
  void answer.then((bytes) => {
    if (!bytes && asked.get(key) === answer) asked.delete(key)
  })
  return answer
}
