/** `lectern found-again`: recordings in the data folder that belong to no lecture come back as one. */
import { parseArgs } from 'node:util'
import { say } from '#core/words/say.ts'
import { configFrom } from '#server/config/config.ts'
import { closeContext, openContext } from '#server/context/context.ts'
import { bringBack, lostRecordings } from '#server/domain/lectures/found-again.ts'
import { addJob } from '#server/queue/queue.ts'
import type { Workers } from '#server/workers/pool.ts'
import { print } from '../io/output.ts'
import { orUsage, Usage, usageOf } from '../io/usage.ts'

const USAGE = usageOf('lectern found-again [--list] [--json]')

export async function foundAgain(args: string[], workers?: Workers) {
  const options = { list: { type: 'boolean', default: false }, json: { type: 'boolean', default: false } } as const
  const { values, positionals } = orUsage(args, () => parseArgs({ args, allowPositionals: true, options }), USAGE)
  if (positionals.length > 0) throw new Usage(USAGE)
  const context = await openContext(configFrom(process.env, ''), workers)
  try {
    const recordings = await lostRecordings(context)
    const lectureId =
      recordings.length === 0 || values.list
        ? null
        : await bringBack(context, (kind, lectureId, payload) => addJob(context, kind, lectureId, payload), recordings)
    if (values.json) return print(JSON.stringify({ recordings, lectureId }))
    for (const { lecture, slide, place, recordedAt } of recordings)
      print(
        `  ${recordedAt ? new Date(recordedAt).toISOString().slice(0, 16).replace('T', ' ') : say('broken off')}  ${lecture || say('unknown lecture')}${place ? `, ${say('slide {place}', { place })}` : ''} ${slide}`,
      )
    if (recordings.length === 0) print(say('Every recording in this folder belongs to a lecture.'))
    else if (lectureId)
      print(
        say('{recordings, plural, one {# recording is} other {# recordings are}} in the lecture “Found again” on the shelf.', {
          recordings: recordings.length,
        }),
      )
  } finally {
    await closeContext(context)
  }
}
