/** `npm run bench -- sheet`: the schedule, long recordings divided, the sheet and the division in the browser, and the published file against them. */
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { ALL_FORMATS, EncodedPacketSink, FilePathSource, Input } from 'mediabunny'
import type { BenchOptions, Figure } from '#bench/report/report.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { schedule } from '#core/timing/schedule.ts'
import { hasPrompts, PROMPT_PACKAGES } from '../speech/prompts.ts'
import { browserFigures } from './browser.ts'
import { divisionFigures } from './division.ts'
import { type BenchServer, longLecture, openBenchServer } from './lecture.ts'
import { splitFigures } from './splits.ts'

const PORT = 4879
const USUAL_ROUNDS = 4

function scheduleFigure(lecture: Lecture): Figure {
  const slides = Array.from({ length: 500 }, (_, i) => lecture.slides[i % lecture.slides.length]!).map((s, i) => ({
    ...s,
    id: `${i}`,
  }))
  const many = { ...lecture, slides, transition: { kind: 'cross-fade' as const, seconds: 0.5 } }
  const times = Array.from({ length: 60 }, () => {
    const began = performance.now()
    schedule(many)
    return performance.now() - began
  }).sort((a, b) => a - b)
  const value = times[30]!
  return { name: 'schedule of 500 slides, median', value, goal: '< 5', unit: 'ms', ok: value < 5 }
}

/** Publishes a lecture of five hundred slides and reads the key frames back. */
async function driftFigure(server: BenchServer): Promise<Figure> {
  const lecture = await longLecture(server, 500, 0)
  const job = await server.queue.add('publish', lecture.id, { lectureId: lecture.id })
  await server.ended(job.id)
  const { editions } = (await (await fetch(`${server.address}/api/lectures/${lecture.id}/editions`)).json()) as {
    editions: { id: string }[]
  }
  const path = join(server.context.config.dataFolder, 'long.mp4')
  writeFileSync(
    path,
    Buffer.from(await (await fetch(`${server.address}/api/editions/${editions[0]!.id}/files/video.mp4`)).arrayBuffer()),
  )
  const input = new Input({ source: new FilePathSource(path), formats: ALL_FORMATS })
  const keys: number[] = []
  for await (const packet of new EncodedPacketSink((await input.getPrimaryVideoTrack())!).packets())
    if (packet.type === 'key') keys.push(packet.timestamp)
  input.dispose()
  const { slides } = schedule(lecture)
  const worst =
    keys.length === slides.length
      ? Math.max(...slides.map((s, i) => 1000 * Math.abs(keys[i]! - toSeconds(s.startSamples))))
      : null
  return {
    name: 'drift of any of 500 slides in the published video, worst',
    value: worst,
    goal: '≤ 16.7',
    unit: 'ms',
    ok: worst !== null && worst <= 16.7,
  }
}

export async function bench({ seed, rounds }: BenchOptions): Promise<Figure[]> {
  if (!hasPrompts()) throw new Error(`This bench speaks with Debian's voices: apt-get install ${PROMPT_PACKAGES.join(' ')}`)
  const server = await openBenchServer(PORT)
  try {
    const short = await longLecture(server, 20, 3)
    return [
      scheduleFigure(short),
      ...splitFigures(seed, rounds ?? USUAL_ROUNDS),
      ...(await browserFigures(server, seed)),
      ...(await divisionFigures(server, seed)),
      await driftFigure(server),
    ]
  } finally {
    await server.end()
  }
}
