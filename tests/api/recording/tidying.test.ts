/** Recipes of takes on the real server: what they render, what is refused, what an upgrade renews. */
import { randomUUID } from 'node:crypto'
import { mkdtempSync, rmSync } from 'node:fs'
import { readdir } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterEach, beforeEach, expect, test } from 'vitest'
import { tidyFresh } from '#core/audio/render/render.ts'
import { fromInt16, toInt16 } from '#core/audio/signal/pcm.ts'
import { SAMPLES_A_COLUMN, SPECTROGRAM_BANDS } from '#core/audio/signal/spectrogram.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Take, TakeAnalysis } from '#core/model/take.ts'
import type { TidyUp } from '#core/model/tidy-up.ts'
import { clipSamples } from '#core/timing/time-map.ts'
import { clips, takes } from '#server/db/schema.ts'
import { keepWholeTake } from '#server/domain/takes/takes.ts'
import { ffmpegAt } from '#server/media/ffmpeg.ts'
import { bytesLater, decodeStored, LONG, pieceOf, spillPcm } from '#server/media/pcm.ts'
import { encodeFlac } from '#server/media/sound-files.ts'
import { tagsOfFile } from '#server/media/sound-tags.ts'
import { tidyAhead } from '#server/recording/tidy-ahead.ts'
import type { TidyOutput } from '#server/workers/worker.ts'
import { openTestApp, type TestApp } from '#tests/api/harness.ts'
import { firstDifference, lay, madeTake, noise, seconds, sine, voice } from '#tests/made/sound.ts'
import { chunksOf } from '#tests/support/chunks.ts'
import { IS_LONG } from '#tests/support/long.ts'

const longTest = test.runIf(IS_LONG)

let app: TestApp
let lecture: Lecture
let takeId: string
const made = madeTake()
const take = async (): Promise<Take> => (await app.read<Lecture>(`/api/lectures/${lecture.id}`)).slides[0]!.takes[0]!
const put = (recipe: TidyUp | Record<string, unknown>) => app.json('PUT', `/api/takes/${takeId}/tidyUp`, recipe)

beforeEach(async () => {
  app = await openTestApp()
  lecture = await app.newLecture()
  takeId = await app.record(lecture.slides[0]!.id, made.samples)
})
afterEach(() => app.end())

test('a take has a spectrogram of its whole length', async () => {
  const { spectrogram, samples } = await take()
  const bytes = new Uint8Array(await (await app.ask(`/api/files/${spectrogram}.spectrogram`)).arrayBuffer())
  expect(bytes.length).toBe(Math.ceil(samples / SAMPLES_A_COLUMN) * SPECTROGRAM_BANDS)
  const loudness = (from: number, to: number) => {
    const part = bytes.slice(from * 50 * SPECTROGRAM_BANDS, to * 50 * SPECTROGRAM_BANDS)
    return part.reduce((sum, v) => sum + v, 0) / part.length
  }
  expect(loudness(1.2, 2.4)).toBeGreaterThan(loudness(2.7, 3.1) + 20)
})

test('a stretch of a take is handed out sample for sample, and no more than half a minute', async () => {
  const stretch = async (start: number, end: number) =>
    new Int16Array(await (await app.ask(`/api/takes/${takeId}/samples?start=${start}&end=${end}`)).arrayBuffer())
  const all = await stretch(0, made.samples.length)
  expect(all.length).toBe(made.samples.length)
  expect(firstDifference(await stretch(70_001, 90_000), all.subarray(70_001, 90_000))).toBe(-1)
  for (const start of [1, 48_000, 131_071, 200_003])
    expect(await stretch(start, start + 30)).toEqual(all.slice(start, start + 30))
  expect(await stretch(made.samples.length - 10, made.samples.length + 5000)).toEqual(all.slice(-10))
  expect((await app.ask(`/api/takes/${takeId}/samples?start=5&end=x`)).status).toBe(422)
})

longTest('a take of several blocks is tidied by threads as it is by one, sample for sample', async () => {
  const long = repeated(24)
  await app.record(lecture.slides[0]!.id, long)
  const { clip, tidyUp, analysis } = await take()
  // as it was kept: in 16 bits
  const alone = tidyFresh(fromInt16(toInt16(long)))
  expect(analysis).toEqual(JSON.parse(JSON.stringify(alone.analysis)))
  expect(tidyUp!.kept).toEqual(alone.tidyUp.kept)
  const kept = await decodeStored(app.context, clip!.sound)
  expect(firstDifference(kept, toInt16(alone.clip))).toBe(-1)
})

longTest('a take that is spilled to disk is tidied as one in memory, sample for sample, by hand as well', async () => {
  const long = repeated(34)
  const folder = mkdtempSync(join(tmpdir(), 'lectern-spill-'))
  try {
    const samples = toInt16(long)
    const { signal } = new AbortController()
    const fresh = await app.context.workers.tidy({ samples, analysis: null, tidyUp: null, marks: [], spillFolder: null }, signal)
    const tidyUp: TidyUp = {
      ...fresh.tidyUp,
      // across the places where long sound is divided
      cuts: [
        { start: seconds(29.5), end: seconds(30.7) },
        { start: seconds(32.2), end: seconds(32.9) },
      ],
      gains: [{ stretch: { start: seconds(25), end: seconds(33) }, db: -9 }],
      silenced: [{ start: seconds(31), end: seconds(32) }],
    }
    const recorded = spillPcm(join(folder, 'recorded'), long)
    for (const known of [
      { analysis: null, tidyUp: null },
      { analysis: fresh.analysis, tidyUp },
    ]) {
      const { clip, ...rest } = await app.context.workers.tidy(
        { samples: recorded, ...known, marks: [], spillFolder: folder },
        signal,
      )
      expect(clip).not.toBeInstanceOf(Int16Array)
      const { clip: wanted, ...others } = await app.context.workers.tidy(
        { samples, ...known, marks: [], spillFolder: null },
        signal,
      )
      expect(rest).toEqual(others)
      expect(clip.length).toBe(wanted.length)
      expect(firstDifference(pieceOf(clip, 0, clip.length), pieceOf(wanted, 0, wanted.length))).toBe(-1)
      const measured = await app.context.workers.measure({ clip, ...rest }, signal)
      expect(measured).toEqual(await app.context.workers.measure({ clip: wanted, ...rest }, signal))
    }
    const drawn = await app.context.workers.spectrogram(recorded, signal)
    expect(firstDifference(drawn, await app.context.workers.spectrogram(samples, signal))).toBe(-1)
  } finally {
    rmSync(folder, { recursive: true })
  }
})

// five minutes of sound are long by nature; that work goes on after an end is tried on short takes every day
test.runIf(IS_LONG)(
  'a server that ends while a long take is tidied does it when it is back, and nothing stays on the disk',
  async () => {
    const long = noise(0.001, LONG + seconds(2), 5)
    for (const at of [3, 150, 290]) lay(long, voice(0.2, seconds(4), at), seconds(at))
    const longTake = randomUUID()
    await app.begin(longTake, lecture.slides[0]!.id)
    const chunks = chunksOf(long)
    for (const [i, chunk] of chunks.entries()) await app.sendChunk(longTake, i, chunk)
    expect((await app.seal(longTake, chunks.length)).status).toBe(200)
    // the recording, and what of it is cleaned so far
    const spilled = async () =>
      (await readdir(app.context.store.scratch, { recursive: true })).filter((name) => name.includes('/'))
    while ((await spilled()).length < 2) await new Promise((resolve) => setTimeout(resolve, 20))
    expect((await take()).tidyUp).toBeNull()
    await app.end(true)
    app = await openTestApp({ dataFolder: app.dataFolder })
    await app.idle()
    const { clip, tidyUp, analysis, spectrogram, problem } = await take()
    expect(problem).toBeNull()
    expect(analysis!.speech.length).toBeGreaterThanOrEqual(3)
    expect(tidyUp!.kept.end).toBeGreaterThan(seconds(293))
    expect(clip!.samples).toBe(clipSamples(tidyUp!))
    expect(spectrogram).not.toBeNull()
    expect(await readdir(app.context.store.scratch)).toEqual([])
  },
)

test('what a key told after the take was sealed is in its recipe: nothing that began before it is used', async () => {
  const fresh = tidyAhead(app.context.workers, app.context.journals)
  const { signal } = new AbortController()
  const marks = [{ kind: 'wrong' as const, at: 96_000 }]
  fresh.begin('one', toInt16(made.samples), [])
  expect(await fresh.finish('one', marks, signal)).toBeNull()
  fresh.begin('one', toInt16(made.samples), marks)
  expect((await fresh.finish('one', marks, signal))!.clip.length).toBeGreaterThan(0)
  expect(await fresh.finish('one', marks, signal)).toBeNull()
})

/** Keeps a recording as it arrives, and tells of each second. @returns what the tidying was given of it when it ended */
async function grown(samples: Int16Array) {
  const { workers, journals } = app.context
  const known: number[] = []
  /** Mains hum that was known when the first blocks were cleaned. */
  const hums: (number | null)[] = []
  const ahead = tidyAhead(
    {
      rehearse: workers.rehearse,
      cleanSettled: async (...asked) => {
        const cleaned = await workers.cleanSettled(...asked)
        hums.push(cleaned.cleaning!.humHz)
        return cleaned
      },
      tidy: (input, signal, soFar) => {
        known.push(soFar?.blocks.length ?? 0)
        return workers.tidy(input, signal, soFar)
      },
    },
    journals,
  )
  const id = randomUUID()
  for (const [i, chunk] of chunksOf(fromInt16(samples)).entries()) ahead.grow(id, await journals.append(id, i, chunk))
  ahead.begin(id, samples, [])
  const tidied = await ahead.finish(id, [], new AbortController().signal)
  return { tidied, known: known[0]!, hums }
}

async function expectAsAtOnce({ clip, ...rest }: TidyOutput, samples: Int16Array) {
  const input = { samples, analysis: null, tidyUp: null, marks: [], spillFolder: null }
  const { clip: wanted, ...others } = await app.context.workers.tidy(input, new AbortController().signal)
  expect(rest).toEqual(others)
  expect(clip.length).toBe(wanted.length)
  expect(firstDifference(pieceOf(clip, 0, clip.length), pieceOf(wanted, 0, wanted.length))).toBe(-1)
}

const repeated = (length: number) => {
  const long = new Float32Array(seconds(length))
  for (let at = 0; at < long.length; at += made.samples.length) long.set(made.samples.subarray(0, long.length - at), at)
  return long
}

test('what was cleaned while it was recorded is what is cleaned when it has ended, sample for sample', async () => {
  const samples = toInt16(repeated(40))
  const { tidied, known } = await grown(samples)
  expect(known).toBeGreaterThan(0)
  await expectAsAtOnce(tidied!, samples)
})

longTest('hum that begins later is taken from the beginning too: what was cleaned before it was heard is not used', async () => {
  // it is heard where the room is quiet, which the first half is not
  const long = lay(noise(0.0005, seconds(45)), noise(0.02, seconds(22), 3), 0)
  for (const at of [2, 12, 26, 36]) lay(long, voice(0.3, seconds(3), at), seconds(at))
  for (const harmonic of [1, 2, 3, 5]) lay(long, sine(50 * harmonic, 0.005 / harmonic, seconds(23)), seconds(22))
  const samples = toInt16(long)
  const { tidied, hums } = await grown(samples)
  expect(hums[0]).toBeNull()
  expect(tidied!.analysis.humHz).toBeCloseTo(50, 1)
  await expectAsAtOnce(tidied!, samples)
})

test('where it could not be begun early, or is taken back, the job does it', async () => {
  const noThread = () => Promise.reject(new Error('no thread'))
  const failing = tidyAhead({ rehearse: noThread, tidy: noThread, cleanSettled: noThread }, app.context.journals)
  failing.begin('one', toInt16(made.samples), [])
  expect(await failing.finish('one', [], new AbortController().signal)).toBeNull()
  let aborted = false
  const waiting = tidyAhead(
    {
      tidy: (_, signal) =>
        new Promise((_resolve, reject) =>
          signal.addEventListener('abort', () => {
            aborted = true
            reject(signal.reason)
          }),
        ),
      cleanSettled: noThread,
      rehearse: noThread,
    },
    app.context.journals,
  )
  const cancel = new AbortController()
  waiting.begin('two', toInt16(made.samples), [])
  const finished = waiting.finish('two', [], cancel.signal)
  cancel.abort()
  expect(await finished).toBeNull()
  expect(aborted).toBe(true)
})

test('an encoder that cannot be started is told, and samples that fail beside it end nothing else', async () => {
  const { store } = app.context
  const stray: unknown[] = []
  const hear = (reason: unknown) => void stray.push(reason)
  process.on('unhandledRejection', hear)
  try {
    const failing = Promise.reject(new Error('no thread'))
    await expect(encodeFlac(ffmpegAt('/nowhere/ffmpeg'), store, bytesLater(failing))).rejects.toThrow('ffmpeg was not found')
    await new Promise((resolve) => setTimeout(resolve, 50))
  } finally {
    process.off('unhandledRejection', hear)
  }
  expect(stray).toEqual([])
})

test('every part of a recipe reaches the clip', async () => {
  const { tidyUp, clip } = await take()
  const recipe = {
    ...tidyUp!,
    cleaning: 0.2,
    level: { ...tidyUp!.level!, targetLufs: -23 },
    cuts: [{ start: seconds(2.6), end: seconds(3) }],
  }
  expect((await put(recipe)).status).toBe(200)
  await app.idle()
  const changed = (await take()).clip!
  expect(changed.samples).toBe(clip!.samples - seconds(0.4))
  expect(changed.figures.loudnessLufs!).toBeCloseTo(-23, 0)
  expect(changed.figures.noiseFloorDb!).toBeGreaterThan(clip!.figures.noiseFloorDb! - 7 + 5) // 7 quieter by level, louder by weaker cleaning
})

test('a recipe that leaves nothing, or reaches past the end, is refused with a sentence, and the one before stays', async () => {
  const { tidyUp } = await take()
  const nothing = await put({ ...tidyUp!, cuts: [{ start: 0, end: made.samples.length }] })
  expect([nothing.status, ((await nothing.json()) as { error: string }).error]).toEqual([
    422,
    expect.stringMatching(/^Nothing of the recording/),
  ])
  const past = await put({ ...tidyUp!, silenced: [{ start: 0, end: made.samples.length + 1 }] })
  expect(past.status).toBe(422)
  expect((await put({ ...tidyUp!, cleaning: 1.5 })).status).toBe(422)
  expect((await take()).tidyUp).toEqual(tidyUp)
})

test('a recipe of an earlier version, without the newer settings, is read with their usual values', async () => {
  const { kept } = (await take()).tidyUp!
  expect((await put({ kept, cuts: [], highPassHz: 70, cleaning: 0.6, roomTone: null, level: null })).status).toBe(200)
  expect((await take()).tidyUp).toMatchObject({ hum: true, pauseCuts: [], fadeIn: { seconds: 0.008 } })
})

test('an analysis of an earlier version, without what is found since, does no harm', async () => {
  const { tidyUp, analysis } = await take()
  const { humHz: _, trailingUtterance: __, ...earlier } = analysis!
  await app.context.db.write((tx) => tx.update(takes).set({ analysis: earlier as TakeAnalysis }))
  expect((await take()).analysis).toMatchObject({ humHz: null, trailingUtterance: null })
  await put({ ...tidyUp!, cleaning: 0.3 })
  await app.idle()
  expect(Math.abs((await take()).clip!.figures.loudnessLufs! + 16)).toBeLessThan(0.5)
})

test('clips of an earlier engine are made again at the next start', async () => {
  const before = (await take()).clip!
  await app.context.db.write((tx) => tx.delete(clips))
  expect((await take()).clip).toBeNull()
  await app.end(true)
  app = await openTestApp({ dataFolder: app.dataFolder })
  await app.idle()
  expect((await take()).clip).toEqual(before)
})

longTest('the same recording on another slide is listened to, cleaned and drawn once', async () => {
  const { workers } = app.context
  const asked: string[] = []
  const [tidy, spectrogram] = [workers.tidy, workers.spectrogram]
  workers.tidy = (...input) => {
    asked.push('tidy')
    return tidy(...input)
  }
  workers.spectrogram = (...input) => {
    asked.push('spectrogram')
    return spectrogram(...input)
  }
  const bring = async (slide: number) => {
    const tags = tagsOfFile('a file.wav')
    const sound = { id: randomUUID(), slideId: lecture.slides[slide]!.id, pcm: toInt16(made.samples), microphone: 'A file', tags }
    await keepWholeTake(app.context, app.queue, sound)
    await app.idle()
    return (await app.read<Lecture>(`/api/lectures/${lecture.id}`)).slides[slide]!
  }
  const first = (await bring(2)).takes[0]!
  expect(asked).toEqual(['tidy', 'spectrogram'])
  const slide = await bring(1)
  const second = slide.takes[0]!
  expect(asked).toHaveLength(2)
  expect(slide.keptTakeId).toBe(second.id)
  expect(second.analysis).toEqual(first.analysis)
  expect(second.tidyUp).toEqual(first.tidyUp)
  expect(second.clip?.sound).toBe(first.clip!.sound)
  expect(second.spectrogram).toBe(first.spectrogram)
})
