/** `npm run bench -- footage`: what publishing with the teacher's small picture throughout costs beside the plain way, and how good the picture is. */
import { execFileSync, execSync } from 'node:child_process'
import { randomUUID } from 'node:crypto'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { eq } from 'drizzle-orm'
import { type Counted, costOf, countedTool, fileOf, publish } from '#bench/publish/counted.ts'
import { distinctLecture } from '#bench/publish/lecture.ts'
import type { BenchOptions, Figure } from '#bench/report/report.ts'
import { filmsAt } from '#core/edition/films.ts'
import { type EditionPlan, plan } from '#core/edition/plan.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { toSamples, toSeconds } from '#core/timing/clocks.ts'
import { footage } from '#server/db/moving-schema.ts'
import { takes } from '#server/db/schema.ts'
import { changeLecture } from '#server/domain/lectures/edit.ts'
import { readLecture } from '#server/domain/lectures/read.ts'
import { pixels } from '#server/encode/film-layers.ts'
import { momentsOf } from '#tests/support/video-frames.ts'
import { type BenchServer, openBenchServer } from '../sheet/lecture.ts'

const say = (what: string) => console.error(`  ${what}`)
const SLIDES = 4
const SLIDE_S = 30
const CAMERA = { width: 960, height: 540 }
const RATE = 30

/** Something that moves all the time with the noise of a camera, coded as a recorder codes it. */
function cameraFilm(path: string) {
  const scene = `mandelbrot=s=${CAMERA.width}x${CAMERA.height}:r=${RATE}:maxiter=200:end_scale=0.02:end_pts=2000,noise=alls=5:allf=t`
  // as recorders do, it says which colours are meant
  const colours = ['-color_range', 'tv', '-colorspace', 'bt709', '-color_primaries', 'bt709', '-color_trc', 'bt709']
  const coded = [
    '-c:v',
    'libx264',
    '-profile:v',
    'baseline',
    '-preset',
    'veryfast',
    '-b:v',
    '1500k',
    '-g',
    '60',
    '-pix_fmt',
    'yuv420p',
    ...colours,
  ]
  execFileSync('ffmpeg', ['-v', 'error', '-y', '-f', 'lavfi', '-i', scene, '-t', String(SLIDE_S), ...coded, path])
}

/** Every slide's take was recorded with the same film. */
async function filmAll(server: BenchServer, lecture: Lecture, path: string) {
  const { context } = server
  const original = await context.store.put(readFileSync(path))
  for (const slide of lecture.slides) {
    const take = slide.takes[0]!
    const footageId = randomUUID()
    const samples = toSamples(SLIDE_S)
    await context.db.write(async (tx) => {
      const row = { id: footageId, lectureId: lecture.id, takeId: take.id, kind: 'camera' as const, codec: 'avc' as const }
      await tx.insert(footage).values({ ...row, ...CAMERA, samples, state: 'sealed', original, createdAt: Date.now() })
      const cut = { footageId, start: 0, end: Math.min(samples, take.samples), from: 0 }
      await tx
        .update(takes)
        .set({ footage: [cut] })
        .where(eq(takes.id, take.id))
    })
    const job = await server.queue.add('footage', lecture.id, { footageId })
    await server.ended(job.id)
  }
}

type Box = ReturnType<typeof pixels>
/** The square in the middle of what is seen in the circle, from the middle of the camera's picture. */
const shownPart = ({ width, height }: Box) => `crop=ih:ih,scale=${width}:${height}:flags=bicubic`
const INNER = 'crop=trunc(iw*0.3)*2:trunc(ih*0.3)*2'

/** The plain way: the camera cut round and laid over the picture, all of it encoded. @returns processor seconds for a second of it */
async function plainly(
  { context }: BenchServer,
  tool: Counted,
  lecture: Lecture,
  { camera, size, box, out }: { camera: string; size: { width: number; height: number }; box: Box; out: string },
): Promise<number> {
  const slide = lecture.slides[0]!
  const { x, y, width } = box
  const round = `format=yuva420p,geq=lum='lum(X,Y)':cb='cb(X,Y)':cr='cr(X,Y)':a='255*lte(hypot(X-${width / 2},Y-${width / 2}),${width / 2})'`
  const mask = join(out, '..', 'mask.png')
  // one picture of the circle: worked out for each frame it would cost more than all else
  execFileSync('ffmpeg', [
    '-v',
    'error',
    '-y',
    '-f',
    'lavfi',
    '-i',
    `color=white:s=${width}x${width}`,
    '-vf',
    round,
    '-frames:v',
    '1',
    mask,
  ])
  const before = tool.seconds()
  await context.store.withLocalFiles(async (lend) => {
    const [picture, clip] = [await lend(slide.steps[0]!.picture), await lend(slide.takes[0]!.clip!.sound)]
    const filter = `[0]scale=${size.width}:${size.height}[s];[1]${shownPart(box)}[c];[2]alphaextract[m];[c][m]alphamerge[r];[s][r]overlay=${x}:${y}`
    execFileSync(tool.program, [
      ...['-v', 'error', '-y', '-loop', '1', '-framerate', String(RATE), '-f', 'image2', '-i', picture, '-i', camera, '-i', mask],
      ...['-f', 'flac', '-i', clip, '-filter_complex', filter, '-map', '3:a', '-t', String(SLIDE_S)],
      ...['-c:v', 'libx264', '-pix_fmt', 'yuv420p', '-c:a', 'aac', '-b:a', '128k', out],
    ])
  })
  return (tool.seconds() - before) / SLIDE_S
}

function rawOf(path: string, filter: string, width: number): Buffer {
  const args = ['-v', 'fatal', '-i', path, '-vf', `${filter},format=gray`, '-fps_mode', 'passthrough', '-f', 'rawvideo', '-']
  const raw = execFileSync('ffmpeg', args, { maxBuffer: 2 ** 31 })
  return raw.subarray(0, raw.length - (raw.length % (width * width)))
}

/** Luma SSIM of two streams of pictures of one size, by the media tool's own filter. */
function similarity(one: Buffer, other: Buffer, side: number, folder: string): number {
  const paths = [one, other].map((raw, i) => {
    const path = join(folder, `ssim-${i}.raw`)
    writeFileSync(path, raw)
    return `-f rawvideo -pix_fmt gray -s ${side}x${side} -r ${RATE} -i "${path}"`
  })
  const told = execSync(`ffmpeg ${paths.join(' ')} -lavfi ssim -f null - 2>&1`, { encoding: 'utf8' })
  return Number(/SSIM (?:Y|All):([\d.]+)/.exec(told)![1])
}

/** Frames of the first slide in which the teacher moves: when they are shown, and which of the camera's they should be. */
function wantedFrames(video: string, edition: EditionPlan) {
  const { films, startSamples, lengthSamples } = edition.slides[0]!
  return momentsOf(video).flatMap((at, index) => {
    const sample = toSamples(at) - startSamples
    const shown = sample < lengthSamples ? filmsAt(films, sample)[0] : undefined
    return shown?.moves ? [{ index, frame: shown.frame }] : []
  })
}

/** How like the camera's pictures what is published is, and what the plain way made. */
function similarities(video: string, plain: string, camera: string, edition: EditionPlan, box: Box, folder: string) {
  const side = 2 * Math.floor(box.width * 0.3)
  const part = `crop=${box.width}:${box.height}:${box.x}:${box.y},${INNER}`
  const truth = rawOf(camera, `${shownPart(box)},${INNER}`, side)
  const pick = (raw: Buffer, index: number) => raw.subarray(index * side * side, (index + 1) * side * side)
  const frames = wantedFrames(video, edition).slice(0, 600)
  const ours = rawOf(video, part, side)
  const plainly = rawOf(plain, part, side)
  const numbers = Array.from({ length: 600 }, (_, i) => i)
  return {
    ours: similarity(
      Buffer.concat(frames.map(({ index }) => pick(ours, index))),
      Buffer.concat(frames.map(({ frame }) => pick(truth, frame))),
      side,
      folder,
    ),
    plain: similarity(
      Buffer.concat(numbers.map((i) => pick(plainly, i))),
      Buffer.concat(numbers.map((i) => pick(truth, i))),
      side,
      folder,
    ),
  }
}

export async function bench(_: BenchOptions): Promise<Figure[]> {
  const tool = countedTool()
  const server = await openBenchServer(4933, tool.program)
  const { context } = server
  const folder = mkdtempSync(join(tmpdir(), 'lectern-footage-'))
  try {
    const camera = join(folder, 'camera.mp4')
    cameraFilm(camera)
    const lecture = await distinctLecture(context, SLIDES, SLIDE_S)
    say(`${SLIDES} slides of ${SLIDE_S} s, with the teacher in a corner of each`)
    const ready = await costOf(tool, () => filmAll(server, lecture, camera))
    const figures: Figure[] = []
    for (const height of [720, 1080] as const) {
      const { exportSettings } = lecture
      await changeLecture(context.db, lecture.id, { exportSettings: { ...exportSettings, height } })
      const now = await readLecture(context.db.read, lecture.id)
      const edition = plan(now)
      const size = { width: (height * 16) / 9, height }
      const box = pixels(edition.slides[0]!.films![0]!, size)
      const out = join(folder, `plain-${height}.mp4`)
      const plain = (await plainly(server, tool, now, { camera, size, box, out })) * toSeconds(edition.lengthSamples)
      let id = ''
      const cost = await costOf(tool, async () => {
        id = await publish(server, lecture.id)
      })
      say(`${height} lines: the plain way ${plain.toFixed(1)} s of processor, ours ${cost.processor.toFixed(1)} s`)
      const { name } = await fileOf(server, id, 'video.mp4')
      const alike = await context.store.withLocalFile(name, async (path) => similarities(path, out, camera, edition, box, folder))
      const ratio = plain / cost.processor
      figures.push(
        {
          name: `processor time with the small picture throughout, ${height} lines, beside the plain way`,
          value: ratio,
          goal: '≥ 1.5',
          unit: '×',
          ok: ratio >= 1.5,
        },
        {
          name: `the small picture’s luma SSIM, ${height} lines (plain way ${alike.plain.toFixed(4)})`,
          value: alike.ours,
          goal: 'as the plain way, − 0.005',
          unit: '',
          ok: alike.ours >= alike.plain - 0.005,
        },
      )
      if (height === 720)
        figures.push({
          name: 'the same with what making the pictures ready cost, 720 lines',
          value: plain / (cost.processor + ready.processor),
          goal: 'told',
          unit: '×',
          ok: true,
        })
    }
    return figures
  } finally {
    await server.end()
    tool.end()
    rmSync(folder, { recursive: true, force: true })
  }
}
