/** Worker threads for long computation, so that the server answers while it goes on. */

import { randomUUID } from 'node:crypto'
import { availableParallelism } from 'node:os'
import { join } from 'node:path'
import { isDeepStrictEqual } from 'node:util'
import { MessageChannel } from 'node:worker_threads'
import { Piscina } from 'piscina'
import type { BlockFigures } from '#core/audio/analysis/take-measurements.ts'
import { type Block, blockJoiner, blocksOf, type Cleaned } from '#core/audio/denoise/denoise.ts'
import type { SlideMix } from '#core/audio/mix/mix.ts'
import type { TakeCleaning } from '#core/audio/render/render.ts'
import type { SampleStore } from '#core/audio/signal/sample-source.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import { type Importer, startImporter } from '#server/import/importer.ts'
import { type Pcm, pieceOf } from '#server/media/pcm.ts'
import { namedSampleFile } from '#server/media/sample-file.ts'
import type {
  BedInput,
  BedOutput,
  BlockInput,
  JoinInput,
  Measured,
  Mixed,
  SeekInput,
  SoughtWords,
  SpokenScript,
  TidiedBlock,
  TidyInput,
  TidyOutput,
} from './worker.ts'

/** The first blocks of a take, cleaned. */
export interface CleanedSoFar {
  /** How they were cleaned; null where none is. */
  cleaning: TakeCleaning | null
  blocks: TidiedBlock[]
}

export interface Workers {
  /** Readies the threads for a take that is going to end: code that ran before runs much faster. */
  rehearse(): Promise<void>
  /**
   * Cleans what of a take that is still being recorded no later sound can change.
   *
   * @param samples what there is so far
   * @param blocks of its settled ones
   */
  cleanSettled(samples: Int16Array, blocks: readonly Block[], signal: AbortSignal): Promise<CleanedSoFar>
  /** @param known the first blocks, when they were cleaned already; they are used where they are what they would be now */
  tidy(input: TidyInput, signal: AbortSignal, known?: CleanedSoFar): Promise<TidyOutput>
  measure(tidied: TidyOutput, signal: AbortSignal): Promise<Measured>
  spectrogram(samples: Pcm, signal: AbortSignal): Promise<Uint8Array>
  /** Reads what strangers made, in a process of its own. */
  importer: Importer
  listen(
    input: { samples: Pcm },
    onPart: (part: number) => void,
    signal: AbortSignal,
  ): Promise<{ speech: SampleRange[]; peaks: Int16Array }>
  bed(input: BedInput, signal: AbortSignal): Promise<BedOutput>
  seekWords(input: SeekInput, signal: AbortSignal): Promise<SoughtWords>
  speakScript(input: { sentences: string[]; language: string }): Promise<SpokenScript | null>
  mix(input: SlideMix, signal: AbortSignal): Promise<Mixed>
  close(): Promise<void>
}

/** Samples that all threads see without a copy of their own. */
function sharedBy(samples: Int16Array): Int16Array {
  const shared = new Int16Array(new SharedArrayBuffer(samples.byteLength))
  shared.set(samples)
  return shared
}

type TidyOne = (
  samples: Pcm,
  block: Block,
  cleaning: TakeCleaning,
  measured: boolean,
  signal: AbortSignal,
) => Promise<TidiedBlock>

const tidyOneIn =
  (pool: Piscina): TidyOne =>
  (samples, block, cleaning, measured, signal) => {
    const recorded = pieceOf(samples, block.from, block.to)
    return pool.run({ recorded, block, cleaning, measured } satisfies BlockInput, { name: 'tidyBlock', signal })
  }

/** A take while it is tidied: its samples, and where what is cleaned of it goes. */
interface Tidying {
  samples: Pcm
  whole: SampleStore
  isMeasured: boolean
  signal: AbortSignal
}

/** Cleans the blocks of a take that are not cleaned yet, and puts all of them together. */
async function cleanBlocks(tidyOne: TidyOne, take: Tidying, cleaning: TakeCleaning, done: readonly TidiedBlock[]) {
  const { samples, whole, isMeasured, signal } = take
  const { length } = samples
  const joiner = blockJoiner<SampleStore>(length, whole)
  const figures: BlockFigures[] = []
  const add = (block: TidiedBlock) => {
    joiner.add(block)
    if (block.figures) figures.push(block.figures)
  }
  done.forEach(add)
  // no more than two wait at a time: what is asked for meanwhile has its turn between the blocks of a long take
  const left = [...blocksOf(length).entries()].slice(done.length).values()
  const ready = new Map<number, TidiedBlock>()
  let next = done.length
  const lane = async () => {
    for (const [i, block] of left) {
      ready.set(i, await tidyOne(samples, block, cleaning, isMeasured, signal))
      for (let tidied = ready.get(next); tidied; tidied = ready.get(next)) {
        add(tidied)
        ready.delete(next++)
      }
    }
  }
  await Promise.all([lane(), lane()])
  return { joined: joiner.joined, figures }
}

/** Tidies a take block by block, so that no thread holds all of a long one. */
async function tidyInBlocks(pool: Piscina, asked: TidyInput, signal: AbortSignal, known: CleanedSoFar): Promise<TidyOutput> {
  const { spillFolder } = asked
  const input = { ...asked, samples: asked.samples instanceof Int16Array ? sharedBy(asked.samples) : asked.samples }
  const { samples } = input
  const { length } = samples
  const path = spillFolder === null ? null : join(spillFolder, randomUUID())
  const file = path === null ? null : namedSampleFile(path, length)
  const clean = async (cleaning: TakeCleaning, done: readonly TidiedBlock[]) => {
    const whole = file ?? new Float32Array(new SharedArrayBuffer(4 * length))
    const take = { samples, whole, isMeasured: input.analysis === null, signal }
    const { joined, figures } = await cleanBlocks(tidyOneIn(pool), take, cleaning, done)
    const cleaned: Cleaned<Float32Array | string> = { ...joined, samples: whole instanceof Float32Array ? whole : path! }
    return { cleaned, figures }
  }
  try {
    // what was found while it was recorded most likely holds for the whole
    const likely = known.cleaning && clean(known.cleaning, known.blocks)
    const ready: Promise<TakeCleaning> = pool.run(input, { name: 'readyToTidy', signal })
    const [found, cleaning] = await Promise.all([likely, ready])
    // unless hum was found, or lost, since
    const holds = found && isDeepStrictEqual(known.cleaning, cleaning)
    const all: JoinInput = { ...input, humHz: cleaning.humHz, ...(holds ? found : await clean(cleaning, [])) }
    return await pool.run(all, { name: 'tidyJoined', signal })
  } finally {
    file?.close()
  }
}

const WARM_THREADS = 2
/** As many as processors; on a machine with one, a take is still cleaned beside the sentence that is aligned. */
const MOST_THREADS = Math.max(WARM_THREADS, availableParallelism())

export function startWorkers(): Workers {
  const importer = startImporter()
  const fromSource = import.meta.filename.endsWith('.ts')
  const pool = new Piscina({
    // threads run the bundle even under a test runner: Node 20 cannot load TypeScript in them
    filename: join(import.meta.dirname, fromSource ? '../../dist/server/worker.js' : 'worker.js'),
    // two stay warm: a take that was just stopped is not to wait for a thread to start
    minThreads: WARM_THREADS,
    maxThreads: MOST_THREADS,
  })
  const tidyOne = tidyOneIn(pool)
  return {
    async rehearse() {
      // at once, so that each thread has one
      await Promise.all(Array.from({ length: WARM_THREADS }, () => pool.run(null, { name: 'rehearse' })))
    },
    async cleanSettled(asked, blocks, signal) {
      const samples = sharedBy(asked)
      const cleaning: TakeCleaning = await pool.run({ samples, analysis: null, tidyUp: null }, { name: 'readyToTidy', signal })
      const cleaned: TidiedBlock[] = []
      for (const block of blocks) cleaned.push(await tidyOne(samples, block, cleaning, true, signal))
      return { cleaning, blocks: cleaned }
    },
    tidy: (input, signal, known = { cleaning: null, blocks: [] }) => tidyInBlocks(pool, input, signal, known),
    measure: (tidied, signal) => pool.run(tidied, { name: 'measureClip', signal }),
    spectrogram: (samples, signal) => pool.run(samples, { name: 'spectrogram', signal }),
    importer,
    async listen(input, onPart, signal) {
      const { port1, port2 } = new MessageChannel()
      port1.on('message', onPart)
      try {
        return await pool.run({ ...input, progress: port2 }, { name: 'listen', transferList: [port2], signal })
      } finally {
        port1.close()
      }
    },
    bed: (input, signal) => pool.run(input, { name: 'bed', signal }),
    seekWords: (input, signal) => pool.run(input, { name: 'seekWords', signal }),
    speakScript: (input) => pool.run(input, { name: 'speakScript' }),
    mix: (input, signal) => pool.run(input, { name: 'mix', signal }),
    async close() {
      importer.close()
      await pool.destroy()
    },
  }
}
