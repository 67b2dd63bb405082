/**
 * Tidying of a take does not wait until it is sealed: whoever recorded it is waiting. What no later sound can change is cleaned while the
 * recording goes on, and the rest as soon as it ends.
 */
import { isDeepStrictEqual } from 'node:util'
import { settledBlocks } from '#core/audio/denoise/denoise.ts'
import type { Mark } from '#core/model/marks.ts'
import { SAMPLE_RATE } from '#core/timing/clocks.ts'
import type { CleanedSoFar, Workers } from '#server/workers/pool.ts'
import type { TidyOutput } from '#server/workers/worker.ts'
import type { TakeJournals } from './take-journal.ts'

export interface TidyAhead {
  /**
   * So much of a take that is still being recorded is on disk.
   *
   * @param chunks of a second each
   */
  grow(takeId: string, chunks: number): void
  /** @param samples of the whole take */
  begin(takeId: string, samples: Int16Array, marks: readonly Mark[]): void
  /** Whatever is under way for a take is not wanted. */
  drop(takeId: string): void
  /** @returns what was begun for a fresh take with these marks, once, and null in the end where that failed; null at once where nothing was */
  finish(takeId: string, marks: readonly Mark[], signal: AbortSignal): Promise<TidyOutput | null> | null
}

/** Cleaned blocks are held in memory, 2 MB each: of longer takes the first ones only. */
const MOST_BLOCKS = 40
/** A recording that nothing was heard of for so long is not waited for. */
const FORGOTTEN_MS = 5 * 60_000

const NOTHING: CleanedSoFar = { cleaning: null, blocks: [] }

interface Growing {
  soFar: CleanedSoFar
  /** The cleaning that is under way. */
  working: Promise<void> | null
  /** Nothing more is cleaned before the recording ends. */
  enough: boolean
  forget: NodeJS.Timeout
}

interface With {
  workers: Pick<Workers, 'rehearse' | 'tidy' | 'cleanSettled'>
  journals: Pick<TakeJournals, 'read'>
}

/** Cleans what has settled since. */
async function cleanMore({ workers, journals }: With, takeId: string, entry: Growing) {
  try {
    const { samples } = await journals.read(takeId)
    const { cleaning, blocks } = entry.soFar
    const next = settledBlocks(samples.length).slice(blocks.length, MOST_BLOCKS)
    // never broken off: that would end the thread, and the take that just ended would wait for another
    const more = await workers.cleanSettled(samples, next, new AbortController().signal)
    // hum that is found only now changes what was cleaned before
    if (cleaning && !isDeepStrictEqual(cleaning, more.cleaning)) entry.soFar = NOTHING
    else entry.soFar = { cleaning: more.cleaning, blocks: [...blocks, ...more.blocks] }
    entry.enough = entry.soFar.blocks.length === 0 || entry.soFar.blocks.length >= MOST_BLOCKS
  } catch {
    // nothing is lost by it: it is done when the take is whole
    entry.enough = true
  }
}

export function tidyAhead(workers: With['workers'], journals: With['journals']): TidyAhead {
  let rehearsed = false
  const growing = new Map<string, Growing>()
  const begun = new Map<string, { marks: readonly Mark[]; made: Promise<TidyOutput | null>; abort: AbortController }>()
  function take(takeId: string) {
    const entry = begun.get(takeId)
    begun.delete(takeId)
    return entry
  }
  function forget(takeId: string) {
    clearTimeout(growing.get(takeId)?.forget)
    growing.delete(takeId)
  }
  const drop = (takeId: string) => {
    forget(takeId)
    take(takeId)?.abort.abort()
  }

  return {
    grow(takeId, chunks) {
      if (!rehearsed) void workers.rehearse().catch(() => {})
      rehearsed = true
      const entry: Growing = growing.get(takeId) ?? {
        soFar: NOTHING,
        working: null,
        enough: false,
        forget: setTimeout(() => growing.delete(takeId), FORGOTTEN_MS).unref(),
      }
      growing.set(takeId, entry)
      entry.forget.refresh()
      if (entry.working || entry.enough || settledBlocks(chunks * SAMPLE_RATE).length <= entry.soFar.blocks.length) return
      entry.working = cleanMore({ workers, journals }, takeId, entry).finally(() => {
        entry.working = null
      })
    },
    begin(takeId, samples, marks) {
      const entry = growing.get(takeId)
      drop(takeId)
      const abort = new AbortController()
      const make = async () => {
        if (entry?.working) await entry.working
        abort.signal.throwIfAborted()
        return workers.tidy({ samples, analysis: null, tidyUp: null, marks, spillFolder: null }, abort.signal, entry?.soFar)
      }
      // a failure is told by the job, which then tries by itself
      begun.set(takeId, { marks, made: make().catch(() => null), abort })
    },
    drop,
    finish(takeId, marks, signal) {
      const entry = take(takeId)
      if (!entry) return null
      if (!isDeepStrictEqual(entry.marks, marks)) {
        entry.abort.abort()
        return null
      }
      const give = () => entry.abort.abort()
      signal.addEventListener('abort', give, { once: true })
      return entry.made.finally(() => signal.removeEventListener('abort', give))
    },
  }
}
