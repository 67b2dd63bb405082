/** Films: what publishing them costs beside the plain way, whether each frame is where it should be, and how far a picture is from its sound. */
import { execFileSync } from 'node:child_process'
import { randomUUID } from 'node:crypto'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { plainWay } from '#bench/publish/bench.ts'
import { type Counted, costOf, countedTool, fileOf, publish } from '#bench/publish/counted.ts'
import { withVideo } from '#bench/publish/host.ts'
import { distinctLecture, keepClip } from '#bench/publish/lecture.ts'
import type { BenchOptions, Figure } from '#bench/report/report.ts'
import { type EditionPlan, plan } from '#core/edition/plan.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { FilmSettings } from '#core/model/moving/film.ts'
import { toSamples, toSeconds } from '#core/timing/clocks.ts'
import { segments } from '#server/db/schema.ts'
import { addFilm, changeFilm } from '#server/domain/lectures/films.ts'
import { readLecture } from '#server/domain/lectures/read.ts'
import { makeFilm } from '#tests/made/film.ts'
import { type BenchServer, openBenchServer } from '../sheet/lecture.ts'

const say = (what: string) => console.error(`  ${what}`)
const SEEKS = 200
const FILM_S = 120

/** Puts a film on the first picture of a slide, and waits until it is ready. */
async function put(server: BenchServer, lecture: Lecture, slide: number, path: string, settings: Partial<FilmSettings> = {}) {
  const { context } = server
  const id = randomUUID()
  const file = await context.store.put(readFileSync(path))
  await addFilm(context.db, lecture.slides[slide]!.steps[0]!.id, id, { name: 'film.mp4', file })
  if (Object.keys(settings).length > 0) await changeFilm(context.db, id, settings)
  const job = await server.queue.add('film', lecture.id, { filmId: id })
  await server.ended(job.id)
}

/** The plain way for a film: laid over its picture at thirty pictures a second. @returns processor seconds for a second of it */
function plainFilm(tool: Counted, folder: string, picture: string, film: string): number {
  const before = tool.seconds()
  execFileSync(tool.program, [
    ...['-v', 'error', '-y', '-loop', '1', '-framerate', '30', '-f', 'image2', '-i', picture, '-i', film, '-t', '20'],
    ...[
      '-filter_complex',
      '[0:v][1:v]overlay=eof_action=repeat',
      '-c:v',
      'libx264',
      '-pix_fmt',
      'yuv420p',
      '-c:a',
      'aac',
      '-b:a',
      '128k',
    ],
    join(folder, 'plain.mp4'),
  ])
  return (tool.seconds() - before) / 20
}

/** Goes to moments of a film in Chromium and reads the number of the frame. @returns how many were wrong */
async function wrongFrames(video: string, edition: EditionPlan, slide: number, seed: number) {
  const planned = edition.slides[slide]!
  const film = planned.films![0]!
  const begins = toSeconds(planned.startSamples + film.startSamples)
  const length = toSeconds(film.endSamples - film.startSamples)
  let state = seed
  const moments = Array.from({ length: SEEKS }, () => {
    state = (state * 48_271) % 2_147_483_647
    // the middle of a frame: where two meet a browser may show either
    const frame = Math.floor((state / 2_147_483_647) * length * 25)
    return { at: begins + (frame + 0.5) / 25, frame }
  })
  const html = '<video src="/v" muted preload="auto"></video><canvas width="1920" height="1080"></canvas>'
  return withVideo(video, html, {}, (page) =>
    page.evaluate(async (all) => {
      const v = document.querySelector('video')!
      const c = document.querySelector('canvas')!.getContext('2d', { willReadFrequently: true })!
      if (v.readyState < 2) await new Promise((resolve) => v.addEventListener('loadeddata', resolve, { once: true }))
      const read = () => {
        c.drawImage(v, 0, 0, 1920, 1080)
        let n = 0
        for (let bar = 0; bar < 12; bar++) if (c.getImageData((bar + 0.5) * 160, 540, 1, 1).data[1]! > 127) n |= 1 << bar
        return n
      }
      let wrong = 0
      for (const { at, frame } of all) {
        await new Promise((resolve) => {
          v.addEventListener('seeked', resolve, { once: true })
          v.currentTime = at
        })
        await new Promise(requestAnimationFrame)
        if (read() === frame) continue
        await new Promise((resolve) => setTimeout(resolve, 300))
        if (read() !== frame) wrong++
      }
      return wrong
    }, moments),
  )
}

/** How far the tone of each second is from the frame it belongs to, at most. Milliseconds. */
function toneDrift(video: string, edition: EditionPlan, slide: number): number {
  const planned = edition.slides[slide]!
  const begins = toSeconds(planned.startSamples + planned.films![0]!.startSamples)
  const raw = execFileSync(
    'ffmpeg',
    ['-v', 'error', '-i', video, '-map', '0:a', '-ac', '1', '-ar', '48000', '-f', 's16le', '-'],
    {
      maxBuffer: 2 ** 31,
    },
  )
  const samples = new Int16Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.length - (raw.length % 2)))
  // the frames are at their moments to the sample (they are read in the tests): what is measured is the sound
  let most = 0
  for (let second = 0; second < FILM_S - 1; second++) {
    const wanted = toSamples(begins + second)
    let found = -1
    // a tone of a thousand hertz is there within a quarter of its first wave
    for (let at = wanted - 4800; at < wanted + 4800 && found < 0; at++) if (Math.abs(samples[at]!) > 1000) found = at
    most = Math.max(most, found < 0 ? 100 : (Math.abs(found - wanted) / 48_000) * 1000)
  }
  return most
}

export async function bench({ seed }: BenchOptions): Promise<Figure[]> {
  const tool = countedTool()
  const server = await openBenchServer(4932, tool.program)
  const { context } = server
  const folder = mkdtempSync(join(tmpdir(), 'lectern-films-'))
  try {
    const film = join(folder, 'moving.mp4')
    execFileSync('ffmpeg', [
      ...['-v', 'error', '-y', '-f', 'lavfi', '-i', `testsrc2=s=1920x1080:r=25:d=${FILM_S}`],
      ...[
        '-f',
        'lavfi',
        '-i',
        `sine=f=300:d=${FILM_S}`,
        '-c:v',
        'libx264',
        '-preset',
        'veryfast',
        '-c:a',
        'aac',
        '-shortest',
        film,
      ],
    ])
    say('18 minutes of slides and 2 of a film')
    const lecture = await distinctLecture(context, 28, 38.5)
    await put(server, lecture, 13, film)
    const plainStill = await plainWay(server, lecture, tool, 0, 3)
    const picture = lecture.slides[13]!.steps[0]!.picture
    const plainMoving = await context.store.withLocalFile(picture, async (path) => plainFilm(tool, folder, path, film))
    const now = await readLecture(context.db.read, lecture.id)
    const length = toSeconds(plan(now).lengthSamples)
    const plain = plainStill * (length - FILM_S) + plainMoving * FILM_S
    say(`the plain way: ${plain.toFixed(0)} s of processor for ${(length / 60).toFixed(1)} minutes`)
    const cost = await costOf(tool, async () => void (await publish(server, lecture.id)))
    say(`ours: ${cost.processor.toFixed(1)} s of processor, ${cost.wall.toFixed(1)} s`)

    say('one other slide changed')
    const before = new Set((await context.db.read.select({ key: segments.key }).from(segments)).map((row) => row.key))
    const other = lecture.slides[3]!
    await keepClip(
      context,
      other.id,
      new Int16Array(toSamples(38)).map((_, i) => 2000 * Math.sin(i / 20)),
      2,
    )
    await publish(server, lecture.id)
    const made = (await context.db.read.select({ key: segments.key }).from(segments)).filter((row) => !before.has(row.key)).length

    say('each frame and each second of a film that counts them')
    const counted = join(folder, 'counted.mp4')
    makeFilm(counted, { frames: FILM_S * 25, width: 960, height: 540, tone: 0.4 })
    const silent = await distinctLecture(context, 3, 0, () => new Int16Array(toSamples(2)), 700)
    await put(server, silent, 1, counted, { voice: 'before', duckDb: 0 })
    const edition = plan(await readLecture(context.db.read, silent.id))
    const { name } = await fileOf(server, await publish(server, silent.id), 'video.mp4')
    const wrong = await context.store.withLocalFile(name, (path) => wrongFrames(path, edition, 1, seed))
    const drift = await context.store.withLocalFile(name, async (path) => toneDrift(path, edition, 1))
    const ratio = plain / cost.processor
    return [
      {
        name: 'processor time of 20 minutes with 2 of a film, beside the plain way',
        value: ratio,
        goal: '≥ 8',
        unit: '×',
        ok: ratio >= 8,
      },
      { name: `frames of a film that are wrong after ${SEEKS} seeks`, value: wrong, goal: '0', unit: '', ok: wrong === 0 },
      {
        name: 'a film’s sound from its picture, any second of 2 minutes',
        value: drift,
        goal: '≤ 20',
        unit: 'ms',
        ok: drift <= 20,
      },
      // its sound, and no picture
      { name: 'segments made anew where another slide was recorded again', value: made, goal: '1', unit: '', ok: made === 1 },
    ]
  } finally {
    await server.end()
    tool.end()
    rmSync(folder, { recursive: true, force: true })
  }
}
