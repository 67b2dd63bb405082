/** Publishing against the plain way: one call of the media tool a slide at 30 pictures a second with its sound, then joined. */

import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { BenchOptions, Figure } from '#bench/report/report.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { toSamples, toSeconds } from '#core/timing/clocks.ts'
import { schedule } from '#core/timing/schedule.ts'
import type { ScheduledSlide } from '#core/timing/scheduled.ts'
import type { AppContext } from '#server/context/context.ts'
import { segments } from '#server/db/schema.ts'
import { changeLecture } from '#server/domain/lectures/edit.ts'
import { readLecture } from '#server/domain/lectures/read.ts'
import { decodeStored } from '#server/media/pcm.ts'
import type { Lend } from '#server/storage/file-store.ts'
import { ebur128 } from '#tests/reference/ebur128.ts'
import { type BenchServer, openBenchServer } from '../sheet/lecture.ts'
import { type Cost, type Counted, costOf, countedTool, fileOf, publish } from './counted.ts'
import { driftOf } from './drift.ts'
import { withVideo } from './host.ts'
import { CODE, distinctLecture, keepClip } from './lecture.ts'

const say = (what: string) => console.error(`  ${what}`)

/** Processor seconds of the plain way for a second of lecture, from a few of its slides. */
export function plainWay(server: BenchServer, lecture: Lecture, tool: Counted, from: number, to: number): Promise<number> {
  return server.context.store.withLocalFiles((lend) => plainlyMade(lend, lecture, tool, from, to))
}

async function plainlyMade(lend: Lend, lecture: Lecture, tool: Counted, from: number, to: number): Promise<number> {
  const folder = mkdtempSync(join(tmpdir(), 'lectern-plain-'))
  const before = tool.seconds()
  let seconds = 0
  const list: string[] = []
  for (const [i, scheduled] of schedule(lecture).slides.slice(from, to).entries()) {
    const slide = lecture.slides.find((s) => s.id === scheduled.slideId)!
    const length = toSeconds(scheduled.lengthSamples)
    const out = join(folder, `${i}.mp4`)
    const [picture, clip] = [await lend(slide.steps[0]!.picture), await lend(slide.takes[0]!.clip!.sound)]
    execFileSync(tool.program, [
      ...['-v', 'error', '-y', '-loop', '1', '-framerate', '30', '-f', 'image2', '-i', picture],
      ...['-f', 'flac', '-i', clip, '-t', String(length), '-af', 'apad'],
      ...['-c:v', 'libx264', '-tune', 'stillimage', '-pix_fmt', 'yuv420p', '-c:a', 'aac', '-b:a', '128k', out],
    ])
    list.push(`file '${out}'`)
    seconds += length
  }
  writeFileSync(join(folder, 'list'), list.join('\n'))
  execFileSync(tool.program, [
    '-v',
    'error',
    '-f',
    'concat',
    '-safe',
    '0',
    '-i',
    join(folder, 'list'),
    '-c',
    'copy',
    join(folder, 'out.mp4'),
  ])
  rmSync(folder, { recursive: true, force: true })
  return (tool.seconds() - before) / seconds
}

/** Luma SSIM of each picture against its source, by the media tool's own filter. */
async function similarity(lend: Lend, lecture: Lecture, video: string, times: ScheduledSlide[]): Promise<number> {
  let least = 1
  for (const scheduled of times.slice(0, 10)) {
    const picture = await lend(lecture.slides.find((s) => s.id === scheduled.slideId)!.steps[0]!.picture)
    const frame = execFileSync('ffmpeg', [
      ...['-v', 'error', '-ss', String(toSeconds(scheduled.startSamples) + 0.0005), '-i', video, '-frames:v', '1'],
      ...['-vf', 'scale=in_color_matrix=bt709:in_range=tv', '-f', 'image2pipe', '-c:v', 'png', '-'],
    ])
    const folder = mkdtempSync(join(tmpdir(), 'lectern-ssim-'))
    writeFileSync(join(folder, 'frame.png'), frame)
    const grey = 'format=gray'
    // the filter tells its figure on standard error
    const told = execFileSync('bash', [
      '-c',
      `ffmpeg -i "${join(folder, 'frame.png')}" -f image2 -i "${picture}" -lavfi "[0]${grey}[a];[1]${grey}[b];[a][b]ssim" -f null - 2>&1`,
    ]).toString()
    least = Math.min(least, Number(/SSIM Y:([\d.]+)/.exec(told)![1]))
    rmSync(folder, { recursive: true, force: true })
  }
  return least
}

/** How far the first picture of a slide is from the sound that begins with it, over a lecture of a hundred slides. Milliseconds. */
async function driftAtHundred(server: BenchServer): Promise<number> {
  const click = (n: number) => {
    const pcm = new Int16Array(toSamples(2) + n * 37)
    pcm.fill(20_000, 4800, 4810)
    return pcm
  }
  const lecture = await distinctLecture(server.context, 100, 2, click)
  const { name } = await fileOf(server, await publish(server, lecture.id), 'video.mp4')
  const last = schedule(lecture).slides[99]!
  return server.context.store.withLocalFile(name, (path) => driftOf(path, last, 99))
}

/** Seeks in Chromium and reads the number in the picture. @returns how many were wrong, of how many */
async function wrongPictures(video: string, times: ScheduledSlide[], seed: number) {
  const length = toSeconds(times.at(-1)!.startSamples + times.at(-1)!.lengthSamples)
  const moments = times.flatMap((s) => {
    const [start, long] = [toSeconds(s.startSamples), toSeconds(s.lengthSamples)]
    return [start + 0.1, start + long / 2, start + long - 0.1]
  })
  let state = seed
  for (let i = 0; i < 100; i++) {
    state = (state * 48_271) % 2_147_483_647
    moments.push((state / 2_147_483_647) * length)
  }
  const html = '<video src="/v" muted preload="auto"></video><canvas width="1920" height="1080"></canvas>'
  return withVideo(video, html, {}, async (page) => {
    const wanted = moments.map((m) => times.findLastIndex((s) => toSeconds(s.startSamples) <= m))
    const told = await page.evaluate(
      async ([all, right, code]) => {
        const v = document.querySelector('video')!
        const c = document.querySelector('canvas')!.getContext('2d', { willReadFrequently: true })!
        if (v.readyState < 2) await new Promise((resolve) => v.addEventListener('loadeddata', resolve, { once: true }))
        const read = () => {
          c.drawImage(v, 0, 0, 1920, 1080)
          let n = 0
          for (let bit = 0; bit < code.bits; bit++) {
            const { data } = c.getImageData(code.left + (bit + 0.5) * code.size, code.top + code.size / 2, 1, 1)
            if (data[0]! < 128) n |= 1 << bit
          }
          return n
        }
        let [wrong, late] = [0, 0]
        for (const [i, moment] of all.entries()) {
          await new Promise((resolve) => {
            v.addEventListener('seeked', resolve, { once: true })
            v.currentTime = moment
          })
          // a frame is looked at when it has been drawn; where the machine stands still that is later than the next refresh
          await new Promise(requestAnimationFrame)
          if (read() === right[i]) continue
          await new Promise((resolve) => setTimeout(resolve, 300))
          if (read() === right[i]) late++
          else wrong++
        }
        return { wrong, late }
      },
      [moments, wanted, CODE] as const,
    )
    say(`${told.late} pictures were drawn later than the first refresh after their seek`)
    return { wrong: told.wrong, of: moments.length }
  })
}

/** Learners who each ask for pieces from all over the video. @returns errors, and how long the slowest twentieth waited */
async function manyLearners(server: BenchServer, lecture: Lecture, editionId: string, learners: number, seeks: number) {
  const { links } = (await (await fetch(`${server.address}/api/lectures/${lecture.id}/editions`)).json()) as {
    links: { token: string }[]
  }
  const url = `${server.address}/watch/${links[0]!.token}/files/${editionId}/video.mp4`
  const { bytes } = await fileOf(server, editionId, 'video.mp4')
  const waits: number[] = []
  let errors = 0
  await Promise.all(
    Array.from({ length: learners }, async (_, l) => {
      for (let s = 0; s < seeks; s++) {
        const start = Math.floor(((l * 7919 + s * 104_729) % 9973) * (bytes / 9973))
        const end = Math.min(bytes - 1, start + 256 * 1024 - 1)
        const began = performance.now()
        try {
          const answer = await fetch(url, { headers: { range: `bytes=${start}-${end}` } })
          const body = await answer.arrayBuffer()
          if (answer.status !== 206 || body.byteLength !== end - start + 1) errors++
        } catch {
          errors++
        }
        waits.push(performance.now() - began)
      }
    }),
  )
  return { errors, slow: waits.sort((a, b) => a - b)[Math.floor(waits.length * 0.95)]! }
}

async function loudnessOf(path: string) {
  const pcm = execFileSync('ffmpeg', ['-v', 'error', '-i', path, '-map', '0:a', '-ac', '2', '-ar', '48000', '-f', 'f32le', '-'], {
    maxBuffer: 2 ** 31,
  })
  const all = new Float32Array(pcm.buffer, pcm.byteOffset, pcm.length >> 2)
  const side = (c: number) => Float32Array.from({ length: all.length / 2 }, (_, i) => all[2 * i + c]!)
  return ebur128(side(0), side(1))
}

/** What the Standard video of a lecture is told to be before it is made. */
async function estimated(server: BenchServer, lecture: Lecture) {
  const answer = await fetch(`${server.address}/api/lectures/${lecture.id}/estimates`)
  const { videos } = (await answer.json()) as { videos: { preset: string; bytes: number; seconds: number }[] }
  return videos.find((v) => v.preset === 'standard')!
}

/** Another recording of a slide: what was said, from elsewhere on. */
async function sayAgain(context: AppContext, slide: Lecture['slides'][number]) {
  const said = await decodeStored(context, slide.takes[0]!.clip!.sound)
  return Int16Array.from(said, (_, i) => said[(i + 300_000) % said.length]!)
}

const SIZE_WITHIN = 0.1
const TIME_WITHIN = 0.3

function estimating(when: string, told: { bytes: number; seconds: number }, bytes: number, seconds: number): Figure[] {
  const [size, time] = [told.bytes / bytes - 1, told.seconds / seconds - 1]
  return [
    { name: `predicted size, ${when}`, value: size * 100, goal: '± 10', unit: '%', ok: Math.abs(size) <= SIZE_WITHIN },
    { name: `predicted time, ${when}`, value: time * 100, goal: '± 30', unit: '%', ok: Math.abs(time) <= TIME_WITHIN },
  ]
}

/** Nobody can know how two pictures fade into each other: it is a guess until one such lecture was made. */
const firstGuess = (told: number, made: number): Figure => {
  const size = told / made - 1
  return {
    name: 'predicted size, nothing made, nothing learnt, with cross-fades',
    value: size * 100,
    goal: '± 30',
    unit: '%',
    ok: Math.abs(size) <= 0.3,
  }
}

export async function bench({ seed }: BenchOptions): Promise<Figure[]> {
  const tool = countedTool()
  const server = await openBenchServer(4931, tool.program)
  const { context } = server
  try {
    say('20 minutes, 30 slides')
    const short = await distinctLecture(context, 30, 39)
    const length = (lecture: Lecture) => toSeconds(schedule(lecture).lengthSamples)
    say('the plain way, 3 slides of it')
    const plainBefore = await plainWay(server, short, tool, 0, 3)
    say(`${plainBefore.toFixed(2)} processor seconds for each of the lecture`)
    say('cold')
    const toldCold = await estimated(server, short)
    let coldEdition = ''
    const cold = await costOf(tool, async () => {
      coldEdition = await publish(server, short.id)
    })
    const coldBytes = (await fileOf(server, coldEdition, 'video.mp4')).bytes
    // another lecture of the same kind, estimated from the parts of this one
    const second = await distinctLecture(context, 30, 39, null, 500)
    const toldLearnt = await estimated(server, second)
    let secondEdition = ''
    const learnt = await costOf(tool, async () => {
      secondEdition = await publish(server, second.id)
    })
    const secondBytes = (await fileOf(server, secondEdition, 'video.mp4')).bytes
    say(`cold ${cold.wall.toFixed(1)} s, ${cold.processor.toFixed(1)} s of processor`)
    say('one slide changed')
    const changedSlide = short.slides[14]!
    await keepClip(context, changedSlide.id, (await sayAgain(context, changedSlide)).subarray(0, toSamples(38)), 2)
    const changed = await costOf(tool, async () => void (await publish(server, short.id)))
    say(`changed ${changed.wall.toFixed(1)} s, ${changed.processor.toFixed(1)} s of processor`)
    say('with cross-fades')
    await changeLecture(context.db, short.id, { transition: { kind: 'cross-fade', seconds: 0.5 } })
    await context.db.write((tx) => tx.delete(segments))
    const toldFaded = await estimated(server, short)
    let fadedEdition = ''
    const faded = await costOf(tool, async () => {
      fadedEdition = await publish(server, short.id)
    })
    const fadedBytes = (await fileOf(server, fadedEdition, 'video.mp4')).bytes
    say(`cross-fades ${faded.wall.toFixed(1)} s, ${faded.processor.toFixed(1)} s of processor`)

    say('the plain way again, 3 other slides')
    const plain = (plainBefore + (await plainWay(server, short, tool, 3, 6))) / 2

    say('60 minutes, 60 slides')
    const long = await distinctLecture(context, 60, 59.3)
    await changeLecture(context.db, long.id, { exportSettings: { ...long.exportSettings, presets: ['standard', 'small'] } })
    const prepare = await server.queue.add('pre-encode', long.id, { lectureId: long.id })
    await server.ended(prepare.id)
    await changeLecture(context.db, long.id, { exportSettings: { ...long.exportSettings, presets: ['standard'] } })
    const told = await estimated(server, long)
    let edition = ''
    const ready = await costOf(tool, async () => {
      edition = await publish(server, long.id)
    })
    say(`ready ${ready.wall.toFixed(1)} s, ${ready.processor.toFixed(1)} s of processor`)
    const standard = await fileOf(server, edition, 'video.mp4')
    await changeLecture(context.db, long.id, { exportSettings: { ...long.exportSettings, presets: ['small'] } })
    const small = await fileOf(server, await publish(server, long.id), 'video-small.mp4')

    say('pictures')
    const times = schedule(await readLecture(context.db.read, long.id)).slides
    const { ssim, seeks, loudness } = await context.store.withLocalFiles(async (lend) => {
      const video = await lend(standard.name)
      return {
        ssim: await similarity(lend, long, video, times),
        seeks: await wrongPictures(video, times, seed),
        loudness: await loudnessOf(video),
      }
    })
    say('learners')
    const learners = await manyLearners(server, long, edition, 200, 10)
    say('a hundred slides')
    const drift = await driftAtHundred(server)

    const ratio = (cost: Cost, lecture: Lecture) => (plain * length(lecture)) / cost.processor
    return [
      {
        name: 'cold export, 20 min / 30 slides, processor against the plain way',
        value: ratio(cold, short),
        goal: '≥ 60',
        unit: 'times less',
        ok: ratio(cold, short) >= 60,
      },
      { name: 'publish when parts were made on save, 60 min', value: ready.wall, goal: '≤ 8', unit: 's', ok: ready.wall <= 8 },
      {
        name: 'the same against the plain way',
        value: ratio(ready, long),
        goal: '≥ 700',
        unit: 'times less',
        ok: ratio(ready, long) >= 700,
      },
      { name: 'one slide changed, 20 min', value: changed.wall, goal: '≤ 3', unit: 's', ok: changed.wall <= 3 },
      {
        name: 'the same against the plain way',
        value: ratio(changed, short),
        goal: '≥ 600',
        unit: 'times less',
        ok: ratio(changed, short) >= 600,
      },
      {
        name: 'with 0.5 s cross-fades everywhere, cold',
        value: ratio(faded, short),
        goal: '≥ 35',
        unit: 'times less',
        ok: ratio(faded, short) >= 35,
      },
      { name: 'A/V error at slide 100', value: drift, goal: '< 1', unit: 'ms', ok: drift < 1 },
      {
        name: `wrong picture after ${seeks.of} seeks in Chromium`,
        value: seeks.wrong,
        goal: '0',
        unit: '',
        ok: seeks.wrong === 0,
      },
      { name: 'luma SSIM of text slides, the least of ten', value: ssim, goal: '≥ 0.995', unit: '', ok: ssim >= 0.995 },
      {
        name: 'size, 60 min / 60 slides, Standard',
        value: standard.bytes / 1e6,
        goal: '≤ 80',
        unit: 'MB',
        ok: standard.bytes <= 80e6,
      },
      { name: 'size, 60 min / 60 slides, Small', value: small.bytes / 1e6, goal: '≤ 35', unit: 'MB', ok: small.bytes <= 35e6 },
      ...estimating('nothing made, nothing learnt', toldCold, coldBytes, cold.wall),
      firstGuess(toldFaded.bytes, fadedBytes),
      ...estimating('nothing made, learnt from another lecture', toldLearnt, secondBytes, learnt.wall),
      ...estimating('all parts made', told, standard.bytes, ready.wall),
      {
        name: 'loudness of the published sound',
        value: loudness.integrated,
        goal: '−16 ± 0.3',
        unit: 'LUFS',
        ok: Math.abs(loudness.integrated + 16) <= 0.3,
      },
      {
        name: 'true peak of the published sound',
        value: loudness.truePeak,
        goal: '≤ −1',
        unit: 'dBTP',
        ok: loudness.truePeak <= -1,
      },
      {
        name: '200 learners seeking ten times each: errors',
        value: learners.errors,
        goal: '0',
        unit: '',
        ok: learners.errors === 0,
      },
      { name: 'the same: 95th of the wait for 256 kB', value: learners.slow, goal: '–', unit: 'ms', ok: null },
    ]
  } finally {
    await server.end()
    tool.end()
  }
}
