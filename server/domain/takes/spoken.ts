/** What was said in takes, word by word; what of it would be cut out; and where such cuts lie. */

import { and, asc, eq, isNotNull, isNull } from 'drizzle-orm'
import { z } from 'zod'
import { fromInt16 } from '#core/audio/signal/pcm.ts'
import { type PlacedCut, piecesFor, placeCut, type WordCut } from '#core/audio/tidy-up/place-cut.ts'
import { isConvincing } from '#core/captions/compare/findings.ts'
import { plainCueText } from '#core/captions/formats/webvtt/cue-text.ts'
import { findSlips, type Slip } from '#core/captions/spoken/find-slips.ts'
import { SOUNDS_VERSION } from '#core/captions/spoken/heard-sounds.ts'
import { type SpokenWord, unknownWords, wordsOfAlignment, wordsOfCues } from '#core/captions/spoken/spoken-words.ts'
import { type HeardSound, TakeAnalysis } from '#core/model/take.ts'
import type { AppContext } from '#server/context/context.ts'
import type { Database } from '#server/db/database.ts'
import { captionTracks, cues, lectures, slides, takes } from '#server/db/schema.ts'
import { isShownSlide, isShownTake } from '#server/db/shown.ts'
import { gone } from '#server/domain/lectures/edit.ts'
import type { JobAdder } from '#server/queue/queue.ts'
import { readTakeSamples } from './takes.ts'

const Place = z
  .number()
  .int()
  .nonnegative()
  .max(24 * 3600 * 48_000)
/** Words to be cut out, as `WordCut` has them. */
export const WordCuts = z
  .array(z.strictObject({ before: Place.nullable(), first: Place, last: Place, after: Place.nullable() }))
  .min(1)
  .max(500)

type TakeRow = typeof takes.$inferSelect

/** What its own alignment knows, where that is believed. */
const alignmentOf = ({ alignment }: TakeRow) => (alignment && isConvincing(alignment.alignment) ? alignment.alignment : null)

export interface SpokenTake {
  words: SpokenWord[]
  sounds: HeardSound[]
  slips: Slip[]
  /** What stands there was found in the sound; else captions only tell roughly where it is. */
  isTimed: boolean
}

/** @throws UserFacingError (404) when the take is gone */
export async function readSpoken({ read }: Database, takeId: string): Promise<SpokenTake> {
  const [take] = await read.select().from(takes).where(eq(takes.id, takeId))
  if (!take) throw gone('take')
  const alignment = alignmentOf(take)
  const ofTake = read
    .select({ start: cues.start, end: cues.end, text: cues.text })
    .from(cues)
    .innerJoin(captionTracks, and(eq(captionTracks.id, cues.trackId), eq(captionTracks.origin, 'script')))
    .where(eq(cues.takeId, takeId))
    .orderBy(asc(cues.start))
  const sounds = take.heardSounds?.sounds ?? []
  const heard = take.draft ? wordsOfAlignment(take.draft.alignment) : []
  const captioned = alignment
    ? []
    : wordsOfCues(
        (await ofTake).map((cue) => ({ ...cue, text: plainCueText(cue.text) })),
        heard,
      )
  const words = alignment
    ? wordsOfAlignment(alignment)
    : captioned.length > 0
      ? captioned
      : unknownWords(take.analysis?.speech ?? [], sounds)
  return { words, sounds, slips: slipsOf(take), isTimed: captioned.length === 0 || heard.length > 0 }
}

const slipsOf = (take: TakeRow): Slip[] =>
  findSlips({
    samples: take.samples,
    analysis: take.analysis && TakeAnalysis.parse(take.analysis),
    alignment: alignmentOf(take),
    sounds: take.heardSounds?.sounds ?? [],
  })

/** Slips of the kept takes of a lecture, by slide in the lecture's order. */
export async function readSlips({ read }: Database, lectureId: string) {
  const rows = await read
    .select()
    .from(slides)
    .innerJoin(takes, and(eq(takes.id, slides.keptTakeId), isShownTake))
    .where(and(eq(slides.lectureId, lectureId), isShownSlide))
    .orderBy(asc(slides.position))
  return rows.map((row) => ({
    slideId: row.slides.id,
    takeId: row.takes.id,
    isHeard: row.takes.heardSounds?.version === SOUNDS_VERSION || row.takes.analysis?.speech.length === 0,
    slips: slipsOf(row.takes),
  }))
}

/** Where cuts that take words out of a take lie: in the quiet beside the words. */
export async function placeCuts(context: AppContext, takeId: string, cuts: readonly WordCut[]): Promise<PlacedCut[]> {
  const [take] = await context.db.read.select().from(takes).where(eq(takes.id, takeId))
  if (!take) throw gone('take')
  const placed: PlacedCut[] = []
  for (const words of cuts) {
    const [start, end] = piecesFor(words, take.samples)
    const read = async (s: typeof start) => ({
      from: s.start,
      samples: fromInt16(await readTakeSamples(context, takeId, s.start, s.end)),
    })
    placed.push(placeCut(words, [await read(start), await read(end)], take.samples))
  }
  return placed
}

/** After an upgrade: kept takes that were never listened to for what stands between their words. */
export async function renewHeardSounds({ db }: Pick<AppContext, 'db'>, queue: JobAdder) {
  const rows = await db.read
    .select({ slideId: slides.id, lectureId: slides.lectureId, heard: takes.heardSounds, analysis: takes.analysis })
    .from(takes)
    .innerJoin(slides, and(eq(slides.keptTakeId, takes.id), isShownSlide))
    .innerJoin(lectures, and(eq(lectures.id, slides.lectureId), isNull(lectures.deletedAt)))
    .where(and(isNotNull(takes.sound), isShownTake))
  for (const { slideId, lectureId, heard, analysis } of rows)
    if (analysis && analysis.speech.length > 0 && heard?.version !== SOUNDS_VERSION)
      await queue.add('align', lectureId, { slideId, soundsOnly: true })
}
