/** What was filmed with a take as a film of its own: its stretches one after the other, cut to its shape. */
import { readFile, rm } from 'node:fs/promises'
import type { FilmRun, PlannedFilm } from '#core/edition/films.ts'
import { SAMPLE_RATE } from '#core/timing/clocks.ts'
import type { AppContext } from '#server/context/context.ts'
import { runMoments, seekTo, shapeFilter } from '#server/encode/film-layers.ts'

const RATE: [number, number] = [30, 1]
/** Lines of one that fills the slide; a smaller one has its share of them. */
const LINES = 1080
const even = (value: number) => Math.max(2, 2 * Math.round(value / 2))

/** @returns the film, and the same as a planned one that is shown once, whole */
export async function filmedClip(
  { media, store }: Pick<AppContext, 'media' | 'store'>,
  film: PlannedFilm,
  runs: readonly FilmRun[],
  signal: AbortSignal,
): Promise<{ bytes: Buffer; film: PlannedFilm }> {
  const out = store.scratchPath('.mp4')
  const step = (SAMPLE_RATE * film.rate[1]) / film.rate[0]
  const { select, moment, dissolve } = runMoments(runs, film.startSamples, step)
  const size = { width: even((film.place.width * LINES * 16) / 9), height: even(film.place.height * LINES) }
  const shown = `select='${select}',${dissolve}settb=1/48000,setpts=${moment}-${film.startSamples},fps=${RATE[0]}:start_time=0,${shapeFilter(film, size)},setsar=1`
  const seconds = (film.endSamples - film.startSamples) / SAMPLE_RATE
  try {
    await store.withLocalFile(film.proxy, (path) =>
      media.run(
        [
          ...[...seekTo(runs[0]!.from, film.fileRate ?? film.rate), '-protocol_whitelist', 'file', '-f', 'mov', '-i', path],
          ...['-vf', shown, '-t', seconds.toFixed(3), '-an', '-c:v', 'libx264', '-preset', 'veryfast', '-crf', '20'],
          ...['-pix_fmt', 'yuv420p', '-map_metadata', '-1', '-fflags', '+bitexact', '-movflags', '+faststart', '-f', 'mp4', out],
        ],
        { signal, timeoutSeconds: 3600 },
      ),
    )
    const frames = Math.max(1, Math.round(seconds * RATE[0]))
    const { runs: _, fileRate: __, ...rest } = film
    return { bytes: await readFile(out), film: { ...rest, rate: RATE, from: 0, to: frames, frames } }
  } finally {
    await rm(out, { force: true })
  }
}
