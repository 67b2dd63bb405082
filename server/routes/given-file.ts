/** One file that a request brings: bounded, kept in the store, known by the name it was given. */
import { bodyLimit } from 'hono/body-limit'
import { Sentence } from '#server/sentence.ts'
import type { Tools } from '#server/tools.ts'

const LARGEST = 2 * 1024 * 1024 * 1024

export const largeFile = bodyLimit({
  maxSize: LARGEST,
  onError: () => {
    throw new Sentence('This file is larger than 2 GB. Export its sound alone, as FLAC or MP3 for example, and add that.', 413)
  },
})

/** @throws Sentence when there is none */
export async function givenFile({ store }: Pick<Tools, 'store'>, form: FormData): Promise<{ name: string; file: string }> {
  const file = form.get('file')
  if (!(file instanceof File)) throw new Sentence('No file arrived. Choose a file.', 422)
  if (file.size === 0) throw new Sentence(`“${file.name}” is empty (0 bytes). Save or download it again.`, 422)
  return { name: file.name, file: await store.put(new Uint8Array(await file.arrayBuffer())) }
}
