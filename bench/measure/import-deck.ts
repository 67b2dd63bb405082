/** The demo's deck of clouds as a lecture of a running server, through the requests the shelf makes. */
import { readFileSync } from 'node:fs'
import { join } from 'node:path'

const DECK = join(import.meta.dirname, '../../demo/files/clouds-by-their-shapes.pdf')

export interface JobState {
  id: string
  state: string
  error: string | null
  result: { lectureId: string } | null
}

export const jobsOf = async ({ address }: { address: string }) =>
  ((await (await fetch(`${address}/api/jobs`)).json()) as { jobs: JobState[] }).jobs

/** @returns id of the lecture */
export async function importDeck(server: { address: string }): Promise<string> {
  const form = new FormData()
  form.append('files', new File([readFileSync(DECK)], 'clouds-by-their-shapes.pdf'))
  form.append('language', 'en')
  const answer = await fetch(`${server.address}/api/lectures`, { method: 'POST', body: form })
  if (!answer.ok) throw new Error(await answer.text())
  const { job } = (await answer.json()) as { job: JobState }
  for (;;) {
    const now = (await jobsOf(server)).find(({ id }) => id === job.id)
    if (now?.state === 'failed') throw new Error(now.error ?? 'The deck could not be read')
    if (now?.state === 'done') return now.result!.lectureId
    await new Promise((resolve) => setTimeout(resolve, 100))
  }
}
