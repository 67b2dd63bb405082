/** Has a recogniser write a draft of the captions of a slide that has no script. */

import { randomUUID } from 'node:crypto'
import { mkdir, open, rm } from 'node:fs/promises'
import { and, asc, eq, ne } from 'drizzle-orm'
import { fromInt16, toInt16 } from '#core/audio/signal/pcm.ts'
import { Resampler } from '#core/audio/signal/resample.ts'
import { wavHeader } from '#core/audio/signal/wav.ts'
import { alignmentOfHeard, draftCues } from '#core/captions/recognised/draft-cues.ts'
import { capitalsOf, type HeardSentence, heardSentences } from '#core/captions/recognised/heard-sentences.ts'
import { LISTENING_RATE, type RecogniserContext, recogniserFor } from '#core/captions/recognised/recogniser.ts'
import { TakeAnalysis } from '#core/model/take.ts'
import { TidyUp } from '#core/model/tidy-up.ts'
import { SAMPLE_RATE, toSeconds } from '#core/timing/clocks.ts'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { insertCues } from '#server/db/insert-cues.ts'
import { captionTracks, cues, lectures, slides, steps, takes, tidyUps } from '#server/db/schema.ts'
import { isShownSlide } from '#server/db/shown.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { LONG, type Pcm, piecesOf, withDecoded } from '#server/media/pcm.ts'
import { bytesOf } from '#server/media/sound-files.ts'
import type { JobDefinition } from '#server/queue/queue.ts'
import { askRecogniser, type Heard } from '#server/speech/recognisers/ask-recogniser.ts'
import { type KnownRecogniser, knownRecognisers } from '#server/speech/recognisers/known-recognisers.ts'

type TakeRow = typeof takes.$inferSelect

/** Texts of a lecture that tell a recogniser which words to expect are no longer than this. */
const MOST_CONTEXT = 200_000

/** Cleaned and levelled, and nothing of it taken out: what is heard at a moment stands at that moment of the take. */
const wholeAndClean = (samples: number, own: TidyUp | null): TidyUp => {
  const { cleaning, hum, clicks, highPassHz, roomTone } = own ?? TidyUp.parse({ kept: { start: 0, end: samples } })
  return TidyUp.parse({ kept: { start: 0, end: samples }, cleaning, hum, clicks, highPassHz, roomTone })
}

/** @returns samples that were written: a WAV file as recognisers want it */
async function writeAtListeningRate(clip: Pcm, path: string): Promise<void> {
  const resampler = new Resampler(SAMPLE_RATE, LISTENING_RATE)
  const most = Math.floor((clip.length * LISTENING_RATE) / SAMPLE_RATE)
  let written = 0
  const file = await open(path, 'wx')
  try {
    await file.writeFile(wavHeader(most, LISTENING_RATE))
    const put = async (samples: Float32Array) => {
      const piece = samples.subarray(0, most - written)
      written += piece.length
      await file.writeFile(bytesOf(toInt16(piece)))
    }
    for (const piece of piecesOf(clip)) await put(resampler.push(fromInt16(piece)))
    // what the resampler still holds back
    while (written < most) await put(resampler.push(new Float32Array(SAMPLE_RATE)))
  } finally {
    await file.close()
  }
}

/** The tidied sound of a take, as long as the take: a recogniser hears half as many words wrongly as in the raw one. */
async function writeTidied(context: AppContext, take: TakeRow, samples: Pcm, path: string, signal: AbortSignal): Promise<void> {
  const { db, store, workers } = context
  const [own] = await db.read.select().from(tidyUps).where(eq(tidyUps.takeId, take.id))
  const tidyUp = wholeAndClean(take.samples, own ? TidyUp.parse(own.tidyUp) : null)
  const analysis = take.analysis && TakeAnalysis.parse(take.analysis)
  const spillFolder = take.samples > LONG ? store.scratchPath('.recognise') : null
  if (spillFolder) await mkdir(spillFolder)
  try {
    const { clip } = await workers.tidy({ samples, analysis, tidyUp, marks: [], spillFolder }, signal)
    await writeAtListeningRate(clip, path)
  } finally {
    if (spillFolder) await rm(spillFolder, { recursive: true, force: true })
  }
}

/** What stands on the slide, and what else is written in the lecture. */
async function textsAround({ db }: AppContext, slide: typeof slides.$inferSelect): Promise<{ slide: string; lecture: string }> {
  const onSteps = await db.read
    .select({ text: steps.text })
    .from(steps)
    .where(eq(steps.slideId, slide.id))
    .orderBy(asc(steps.position))
  const others = await db.read
    .select({ title: slides.title, altText: slides.altText, script: slides.script })
    .from(slides)
    .where(and(eq(slides.lectureId, slide.lectureId), ne(slides.id, slide.id), isShownSlide))
    .orderBy(asc(slides.position))
  const joined = (parts: string[]) =>
    parts
      .filter((part) => part.trim() !== '')
      .join('\n')
      .slice(0, MOST_CONTEXT)
  return {
    slide: joined([slide.title, slide.altText, slide.script, ...onSteps.map(({ text }) => text)]),
    lecture: joined(others.flatMap(({ title, altText, script }) => [title, altText, script])),
  }
}

/** @throws UserFacingError when none hears the language */
async function recogniserOf(context: AppContext, language: string): Promise<KnownRecogniser> {
  const known = await knownRecognisers(context.config)
  const found = recogniserFor(known, language)
  if (found) return found
  throw new UserFacingError(
    known.some((one) => one.isReady)
      ? message('No recogniser here hears this language. Type the captions by ear.')
      : message('There is no recogniser here. Type the captions by ear.'),
    409,
  )
}

/** What was heard as sentences, and where they are in the sound. */
async function alignedDraft(
  { workers }: AppContext,
  heard: Heard,
  {
    samples,
    language,
    texts,
    recipe,
    humHz,
  }: { samples: Pcm; language: string; texts: string[]; recipe: TidyUp; humHz: number | null },
  signal: AbortSignal,
) {
  const list: HeardSentence[] =
    'words' in heard
      ? heardSentences(heard.words, language, capitalsOf(texts))
      : heard.sentences.map((text) => ({ text, words: [] }))
  const sought = await workers.seekWords({ samples, sentences: list.map(({ text }) => text), language, recipe, humHz }, signal)
  if (sought.alignment) return sought.alignment
  // no voice for the language: the recogniser's own times, where it told some
  return 'words' in heard ? alignmentOfHeard(list) : null
}

/** Whether the greater part of a caption is where another one stands. */
const isMostlyIn = (cue: { start: number; end: number }, other: { start: number; end: number }) =>
  Math.min(cue.end, other.end) - Math.max(cue.start, other.start) > (cue.end - cue.start) / 2

export const recogniseTake: JobDefinition<'recognise'>['run'] = async ({ slideId }, context, report, signal) => {
  const { db, store, events } = context
  const [row] = await db.read
    .select()
    .from(slides)
    .innerJoin(lectures, eq(lectures.id, slides.lectureId))
    .innerJoin(takes, eq(takes.id, slides.keptTakeId))
    .innerJoin(captionTracks, and(eq(captionTracks.lectureId, slides.lectureId), eq(captionTracks.origin, 'script')))
    .where(and(eq(slides.id, slideId), isShownSlide))
  if (!row?.takes.sound) throw new UserFacingError(message('This slide has no recording to listen to.'), 409)
  const take = row.takes
  const language = row.slides.language ?? row.captionTracks.language
  const recogniser = await recogniserOf(context, language)
  const analysis = take.analysis && TakeAnalysis.parse(take.analysis)
  const speech = analysis?.speech ?? []
  if (speech.length === 0) throw new UserFacingError(message('Nobody speaks in this recording.'), 422)
  const [own] = await db.read.select().from(tidyUps).where(eq(tidyUps.takeId, take.id))
  const texts = await textsAround(context, row.slides)
  const told: RecogniserContext = {
    stretches: speech.map(({ start, end }) => ({ start: toSeconds(start), end: toSeconds(end) })),
    ...texts,
  }
  const path = store.scratchPath('.wav')
  const seconds = toSeconds(take.samples)
  try {
    report(0.05, message('Tidying what it listens to'))
    const alignment = await withDecoded(context, take.sound!, take.samples, async (samples) => {
      await writeTidied(context, take, samples, path, signal)
      report(0.3, message('{name} listens', { name: recogniser.name }))
      const heard = await askRecogniser(recogniser, path, seconds, language, told, store.scratchPath('.json'), signal)
      report(0.8, message('Finding when the words are said'))
      const recipe = wholeAndClean(take.samples, own ? TidyUp.parse(own.tidyUp) : null)
      const wanted = { samples, language, texts: [texts.slide, texts.lecture], recipe, humHz: analysis!.humHz }
      return alignedDraft(context, heard, wanted, signal)
    })
    const material = { language, lineCharacters: row.lectures.lineCharacters, takeId: take.id, seconds, speech }
    const made = alignment && draftCues(alignment, material)
    if (!made)
      throw new UserFacingError(
        message(
          'What the recogniser wrote is not what is said in this recording, so none of it was taken. Type the captions by ear.',
        ),
        422,
      )
    let fresh: typeof made.cues = []
    await db.write(async (tx) => {
      const draft = { recogniser: recogniser.name, language, alignment: alignment! }
      await tx.update(takes).set({ draft }).where(eq(takes.id, take.id))
      // a draft in the place of one that nobody has touched
      const earlier = and(eq(cues.trackId, row.captionTracks.id), eq(cues.takeId, take.id), eq(cues.manualEdit, 'heard'))
      await tx.delete(cues).where(earlier)
      const touched = await tx
        .select({ start: cues.start, end: cues.end })
        .from(cues)
        .where(and(eq(cues.trackId, row.captionTracks.id), eq(cues.takeId, take.id), ne(cues.text, '')))
      fresh = made.cues.filter((cue) => !touched.some((own) => isMostlyIn(cue, own)))
      await insertCues(
        tx,
        fresh.map((cue) => ({ ...cue, id: randomUUID(), trackId: row.captionTracks.id, slideId })),
      )
    })
    events.tell({ type: 'lecture', lectureId: row.slides.lectureId })
    const note =
      made.leftOut.length === 0
        ? null
        : message(
            '{count, plural, one {One sentence of the recogniser is not in the sound and was left out.} other {# sentences of the recogniser are not in the sound and were left out.}}',
            { count: made.leftOut.length },
          )
    return { captions: fresh.length, note }
  } finally {
    await rm(path, { force: true })
  }
}
