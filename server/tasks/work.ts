/** How each kind of task is worked, on whatever machine. */
import { mkdir, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { encodeSegments, recipeOf } from '#server/encode/encode.ts'
import { bytesLater, decodeStored, decodeStoredToDisk, LONG, withDecoded } from '#server/media/pcm.ts'
import { bytesOf, encodeFlac } from '#server/media/sound-files.ts'
import type { TidyOutput } from '#server/workers/worker.ts'
import type { EncodeOrder, SeekWords, TaskInput, TaskKind, TaskOutput, Tasks, TaskTools, TidiedSound, TidySound } from './task.ts'

/** Keeps what came of tidying; its clip is encoded as soon as it is there. @param onTidied is told when all is done but keeping it */
export async function keepClip(
  { store, media, workers }: TaskTools,
  tidying: Promise<TidyOutput>,
  signal: AbortSignal,
  onTidied = () => {},
): Promise<TidiedSound> {
  // the encoder is started meanwhile
  const encoding = encodeFlac(media, store, bytesLater(tidying.then((made) => made.clip)))
  // one cannot go on without the other: what is wrong is told by the first
  encoding.catch(() => {})
  const tidied = await tidying
  signal.throwIfAborted()
  onTidied()
  const { peaks, figures, powers } = await workers.measure(tidied, signal)
  return {
    analysis: tidied.analysis,
    tidyUp: tidied.tidyUp,
    clip: await encoding,
    samples: tidied.clip.length,
    peaks: await store.put(bytesOf(peaks)),
    figures,
    powers,
  }
}

async function tidy({ sound, ...known }: TidySound, tools: TaskTools, signal: AbortSignal): Promise<TidiedSound> {
  const spillFolder = known.samples > LONG ? tools.store.scratchPath('') : null
  try {
    if (spillFolder !== null) await mkdir(spillFolder)
    const samples = await (spillFolder === null
      ? decodeStored(tools, sound)
      : decodeStoredToDisk(tools, sound, join(spillFolder, 'recorded')))
    return await keepClip(tools, tools.workers.tidy({ ...known, samples, spillFolder }, signal), signal)
  } finally {
    // a thread that was ended may still write for a moment
    if (spillFolder !== null) await rm(spillFolder, { recursive: true, force: true, maxRetries: 5 })
  }
}

const words = ({ sound, samples: length, ...sought }: SeekWords, tools: TaskTools, signal: AbortSignal) =>
  withDecoded(tools, sound, length, (samples) => tools.workers.seekWords({ ...sought, samples }, signal))

async function encode({ orders, keys, loudness }: EncodeOrder, tools: TaskTools, signal: AbortSignal) {
  const recipes = orders.map(recipeOf)
  const other = recipes.findIndex((recipe, i) => recipe.key !== keys[i])
  if (other >= 0) throw new Error('Another version asked for this segment: it would be encoded otherwise here')
  return encodeSegments({ ...tools, loudness }, recipes, signal)
}

const WORK: { [K in TaskKind]: (input: TaskInput<K>, tools: TaskTools, signal: AbortSignal) => Promise<TaskOutput<K>> } = {
  tidy,
  words,
  encode,
}

export const workOn = <K extends TaskKind>(kind: K, input: TaskInput<K>, tools: TaskTools, signal: AbortSignal) =>
  WORK[kind](input, tools, signal)

/** Everything is worked on this machine. */
export const tasksHere = (tools: TaskTools): Tasks => ({
  run: (kind, input, signal) => workOn(kind, input, tools, signal),
  elsewhere: () => 0,
  state: () => null,
  close: async () => {},
})
