/** Plays twenty minutes in Chromium without a stop: how far the sound is from the picture, slide after slide. */
import { eq } from 'drizzle-orm'
import type { BenchOptions, Figure } from '#bench/report/report.ts'
import { toSamples, toSeconds } from '#core/timing/clocks.ts'
import { schedule } from '#core/timing/schedule.ts'
import { editionFiles } from '#server/db/schema.ts'
import { openBenchServer } from '../sheet/lecture.ts'
import { withVideo } from './host.ts'
import { distinctLecture } from './lecture.ts'

const SLIDES = 60
const CLIP_S = Number(process.env.PLAY_CLIP ?? 19.3)
/** Of the click, from the clip's first sample. */
const CLICK_AT = 9600

/** The page's own measuring: when each slide's first frame was shown and when its click was heard, on one clock. */
const MEASURE = `
class Clicks extends AudioWorkletProcessor {
  process([input]) {
    const x = input[0]
    if (x) for (let i = 0; i < x.length; i++) if (Math.abs(x[i]) > 0.3 && currentFrame + i > (this.last ?? -1e9) + 4800) {
      this.last = currentFrame + i
      this.port.postMessage((currentFrame + i) / sampleRate)
    }
    return true
  }
}
registerProcessor('clicks', Clicks)`

const middle = (values: number[]) => values.toSorted((a, b) => a - b)[values.length >> 1]!

/** How much each value grows on the one before: the middle slope of all pairs, for single readings lie anywhere within a refresh (Theil 1950, Sen 1968). */
const trend = (values: number[]) => middle(values.flatMap((a, i) => values.slice(i + 1).map((b, n) => (b - a) / (n + 1))))

export async function bench({ rounds }: BenchOptions): Promise<Figure[]> {
  const minutes = rounds ?? 20
  const server = await openBenchServer(4932)
  try {
    const count = Math.round((SLIDES * minutes) / 20)
    const lecture = await distinctLecture(server.context, count, CLIP_S, (n) => {
      const pcm = new Int16Array(toSamples(CLIP_S) + n)
      pcm.fill(26_000, CLICK_AT, CLICK_AT + 40)
      return pcm
    })
    const job = await server.ended((await server.queue.add('publish', lecture.id, { lectureId: lecture.id })).id)
    const { editionId } = job.result as { editionId: string }
    const files = await server.context.db.read.select().from(editionFiles).where(eq(editionFiles.editionId, editionId))
    const { file } = files.find((f) => f.name === 'video.mp4')!
    const html = '<video src="/v" preload="auto" width="960"></video>'
    return await server.context.store.withLocalFile(file, (video) =>
      withVideo(video, html, { '/clicks.js': MEASURE }, async (page) => {
        const measured = await page.evaluate(async () => {
          const v = document.querySelector('video')!
          const context = new AudioContext({ sampleRate: 48_000 })
          await context.audioWorklet.addModule('/clicks.js')
          const node = new AudioWorkletNode(context, 'clicks')
          const heard: number[] = []
          node.port.onmessage = ({ data }) => heard.push(data)
          // both clocks, read side by side: a single reading is as rough as the sound's buffers, twenty are not
          const clocks: [number, number][] = []
          setInterval(() => clocks.push([context.currentTime, performance.now()]), 100)
          context.createMediaElementSource(v).connect(node).connect(context.destination)
          const shown: [number, number][] = []
          v.requestVideoFrameCallback(function next(_, frame) {
            shown.push([frame.mediaTime, frame.expectedDisplayTime])
            v.requestVideoFrameCallback(next)
          })
          let stalls = 0
          v.addEventListener('waiting', () => stalls++)
          await context.resume()
          await v.play()
          await new Promise((resolve) => v.addEventListener('ended', resolve, { once: true }))
          return { heard, clocks, shown, stalls, dropped: v.getVideoPlaybackQuality().droppedVideoFrames }
        })
        const apart = schedule(lecture).slides.flatMap((slide) => {
          const frame = measured.shown.find(([at]) => Math.abs(at - toSeconds(slide.startSamples)) < 0.001)
          if (!frame) return []
          // where the sound's clock stands beside the page's, just here: without a sound card it loses time whenever the machine stands still
          const near = measured.clocks
            .filter(([, page]) => Math.abs(page - frame[1]) < 1000)
            .map(([sound, page]) => page - sound * 1000)
          const offset = middle(near)
          // the click comes so long after the picture when both are in step
          const due = frame[1] + toSeconds(slide.leadSamples + CLICK_AT) * 1000
          const click = measured.heard
            .map((at) => at * 1000 + offset)
            .reduce((best, at) => (Math.abs(at - due) < Math.abs(best - due) ? at : best), Number.POSITIVE_INFINITY)
          return [click - due]
        })
        console.error(`  each slide, ms: ${apart.map((a) => Math.round(a)).join(' ')}`)
        const growth = (apart.length - 1) * trend(apart)
        const worst = apart.toSorted((a, b) => Math.abs(a) - Math.abs(b))[Math.floor(apart.length * 0.95)]!
        return [
          {
            name: `slides measured in ${minutes} minutes of play`,
            value: apart.length,
            goal: `${count}`,
            unit: '',
            ok: apart.length >= count * 0.95,
          },
          { name: 'sound against picture, 95th', value: worst, goal: '< 60', unit: 'ms', ok: Math.abs(worst) < 60 },
          {
            name: 'growth from the first slide to the last, by their trend',
            value: growth,
            goal: '< 20',
            unit: 'ms',
            ok: Math.abs(growth) < 20,
          },
          { name: 'stalls', value: measured.stalls, goal: '0', unit: '', ok: measured.stalls === 0 },
        ]
      }),
    )
  } finally {
    await server.end()
  }
}
