/** The edition a link opens. */
import { hc, type InferResponseType } from 'hono/client'
import type { WatchApi } from '#server/routes/watch.ts'

const client = hc<WatchApi>('/watch')

export type WatchedEdition = InferResponseType<(typeof client)[':token']['edition']['$get'], 200>
export type WatchedChapter = WatchedEdition['chapters'][number]

/** @returns the edition, or a sentence for the learner */
export async function fetchEdition(token: string): Promise<WatchedEdition | { problem: string }> {
  try {
    const response = await client[':token'].edition.$get({ param: { token } })
    if (response.ok) return await response.json()
    const { error } = (await response.json()) as unknown as { error: string }
    return { problem: error }
  } catch {
    return { problem: 'This page cannot reach its lecture now. Check the connection and load it again.' }
  }
}
