/** What a class recorded, as files with names that sort, and a table of what was read. */

import { rm } from 'node:fs/promises'
import type { ReadingEventKind, ReadingReport } from '#core/captions/reading/reading-report.ts'
import { csvLine } from '#core/reports/csv.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { safeName, type ZippedFile } from '#server/storage/zip-stream.ts'
import type { Answer } from '#server/voices/answers.ts'
import { SOUND_ENCODERS, type SoundFormat } from './pieces.ts'

const HEAD = [
  'name',
  'slide',
  'attempt',
  'recorded',
  'seconds',
  'words correct per minute',
  'words read',
  'words correct',
  'reading seconds',
  'left out',
  'repeated',
  'read otherwise',
  'listen',
  'pauses over 1 s',
  'pauses over 3 s',
  'file',
]

/** Of a reading of which little was heard for sure nothing is told, as on the page. */
function figuresOf(report: ReadingReport | null): (string | number)[] {
  if (!report?.isSure) return Array.from({ length: 10 }, () => '')
  const words = (kind: ReadingEventKind) =>
    report.events.filter((event) => event.kind === kind).reduce((sum, event) => sum + event.words, 0)
  const times = (kind: ReadingEventKind) => report.events.filter((event) => event.kind === kind).length
  return [
    Math.round(report.correctPerMinute),
    report.words,
    report.correct,
    report.seconds.toFixed(1),
    words('left-out'),
    words('repeated'),
    words('read-otherwise'),
    words('listen'),
    times('pause') + times('hesitation'),
    times('hesitation'),
  ]
}

/** "Ada Example 03 (2).flac": by name, then by slide. */
const fileName = (answer: Answer, number: number, format: SoundFormat) =>
  `${safeName(answer.name)} ${String(number).padStart(2, '0')}${answer.attempt > 1 ? ` (${answer.attempt})` : ''}.${format}`

/**
 * @param slides of the lecture, in order
 * @throws UserFacingError (422) where nobody has sent anything
 */
export function answerFolder(
  context: AppContext,
  answers: readonly Answer[],
  slides: readonly { id: string }[],
  format: SoundFormat,
): AsyncGenerator<ZippedFile> {
  if (answers.length === 0)
    throw new UserFacingError(message('Nobody has sent an answer yet, so there is nothing to take away.'), 422)
  return filesOf(context, answers, slides, format)
}

async function* filesOf(
  context: AppContext,
  answers: readonly Answer[],
  slides: readonly { id: string }[],
  format: SoundFormat,
): AsyncGenerator<ZippedFile> {
  const lines = [csvLine(HEAD)]
  const taken = new Set<string>()
  for (const answer of answers) {
    const number = slides.findIndex(({ id }) => id === answer.slideId) + 1
    let name = fileName(answer, number, format)
    // two people of one name
    for (let k = 2; taken.has(name); k++) name = fileName({ ...answer, name: `${answer.name} ${k}` }, number, format)
    taken.add(name)
    const fields = [answer.name, number, answer.attempt, new Date(answer.startedAt).toISOString()]
    const row = [...fields, toSeconds(answer.samples).toFixed(1), ...figuresOf(answer.report), answer.clip ? name : '']
    lines.push(csvLine(row.map(String)))
    // one that is still being tidied stands in the table alone
    if (!answer.clip) continue
    const out = context.store.scratchPath(`.${format}`)
    try {
      await context.store.withLocalFile(answer.clip.sound, (clip) =>
        context.media.run([
          ...['-protocol_whitelist', 'file', '-f', 'flac', '-i', clip, '-metadata', `title=${answer.name}`],
          ...SOUND_ENCODERS[format],
          out,
        ]),
      )
      yield { path: name, content: { file: out } }
    } finally {
      await rm(out, { force: true })
    }
  }
  yield { path: 'answers.csv', content: `\uFEFF${lines.join('')}` }
}
