/** Caption tracks: those that make themselves from the scripts, and those that come as a file. */
import { randomUUID } from 'node:crypto'
import { and, eq } from 'drizzle-orm'
import { ALIGN_VERSION } from '#core/captions/align/align.ts'
import { cuesFromAlignment, isConvincing, type TimedCue } from '#core/captions/cues-from-alignment.ts'
import { cuesFromScript } from '#core/captions/cues-from-script.ts'
import { placeCues } from '#core/captions/place-cues.ts'
import { plainCueText } from '#core/captions/webvtt/cue-text.ts'
import { parseWebVtt } from '#core/captions/webvtt/parse.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import type { Database, Tables } from '#server/db/database.ts'
import { captionTracks, cues, type KeptAlignment, lectures, slides, takes } from '#server/db/schema.ts'
import { Sentence } from '#server/sentence.ts'
import { readLecture } from './read.ts'

/** What a kept alignment must have been made for to be of use. */
export const isAlignmentOf = (kept: KeptAlignment | null, script: string, language: string): kept is KeptAlignment =>
  kept !== null && kept.version === ALIGN_VERSION && kept.script === script && kept.language === language

/**
 * Makes the captions of a slide again from its script and its kept take. Part of every change to either of the two,
 * in the same transaction, so that captions are never those of an earlier script. Until the words were found in the recording
 * they are spread over the speech by length.
 */
export async function remakeScriptCues(tx: Tables, slideId: string) {
  const [slide] = await tx.select().from(slides).where(eq(slides.id, slideId))
  if (!slide) return
  const [track] = await tx
    .select()
    .from(captionTracks)
    .where(and(eq(captionTracks.lectureId, slide.lectureId), eq(captionTracks.origin, 'script')))
  if (!track) return
  const before = await tx
    .select()
    .from(cues)
    .where(and(eq(cues.trackId, track.id), eq(cues.slideId, slideId)))
  await tx.delete(cues).where(and(eq(cues.trackId, track.id), eq(cues.slideId, slideId)))
  const [take] = slide.keptTakeId ? await tx.select().from(takes).where(eq(takes.id, slide.keptTakeId)) : []
  if (!take?.analysis) return
  const kept = isAlignmentOf(take.alignment, slide.script, track.language) ? take.alignment.alignment : null
  const made: TimedCue[] =
    kept && isConvincing(kept)
      ? cuesFromAlignment(kept, toSeconds(take.samples))
      : cuesFromScript(slide.script, take.analysis.speech, track.language).map((cue) => ({ ...cue, doubtful: kept !== null }))
  if (made.length === 0) return
  // a cue whose words stay keeps its name: what points to it goes on pointing to it
  const names = new Map(before.map((cue) => [cue.text, cue.id]))
  const nameOf = (text: string) => {
    const known = names.get(text)
    names.delete(text)
    return known ?? randomUUID()
  }
  await tx
    .insert(cues)
    .values(made.map((cue) => ({ id: nameOf(cue.text), trackId: track.id, slideId, takeId: take.id, settings: '', ...cue })))
}

const MOST_CAPTION_BYTES = 5_000_000

export interface AttachedCaptions {
  trackId: string
  kept: number
  /** What was left out, by line of the file. */
  problems: { line: number; message: string }[]
}

/**
 * Attaches a WebVTT file for the whole lecture. Good cues are kept whatever is wrong with others.
 *
 * @throws Sentence when the file is no WebVTT, or none of its cues can be used
 */
export async function attachCaptions(
  db: Database,
  lectureId: string,
  name: string,
  bytes: Uint8Array,
  language: string,
): Promise<AttachedCaptions> {
  if (bytes.length > MOST_CAPTION_BYTES)
    throw new Sentence(`“${name}” is larger than 5 MB, which no caption file is. Choose another file.`, 413)
  let text: string
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(bytes)
  } catch {
    throw new Sentence(`“${name}” is not UTF-8 text. Save it as UTF-8 and attach it again.`, 415)
  }
  const parsed = parseWebVtt(text)
  if (!parsed.signed)
    throw new Sentence(
      `“${name}” is not a WebVTT file: its first line is not WEBVTT. Export the captions as .vtt and attach that.`,
      415,
    )
  const lecture = await readLecture(db.read, lectureId)
  const { placed, problems } = placeCues(
    lecture,
    parsed.cues.map((cue) => ({ ...cue, text: plainCueText(cue.text) })),
  )
  const all = [...parsed.problems, ...problems].sort((a, b) => a.line - b.line)
  if (placed.length === 0) {
    throw new Sentence(
      `None of the captions in “${name}” falls on a slide of this lecture. Is it the file of another lecture?`,
      422,
      { problems: all },
    )
  }
  const trackId = randomUUID()
  await db.write(async (tx) => {
    const same = and(
      eq(captionTracks.lectureId, lectureId),
      eq(captionTracks.origin, 'file'),
      eq(captionTracks.language, language),
    )
    await tx.update(captionTracks).set({ deletedAt: Date.now() }).where(same)
    await tx.insert(captionTracks).values({ id: trackId, lectureId, language, label: name, origin: 'file' })
    await tx.insert(cues).values(placed.map((cue) => ({ id: randomUUID(), trackId, ...cue })))
    await tx.update(lectures).set({ updatedAt: Date.now() }).where(eq(lectures.id, lectureId))
  })
  return { trackId, kept: placed.length, problems: all }
}

/** Marks a track as deleted, or brings it back. */
export async function setTrackDeleted(db: Database, trackId: string, deleted: boolean): Promise<string> {
  const [track] = await db.write((tx) =>
    tx
      .update(captionTracks)
      .set({ deletedAt: deleted ? Date.now() : null })
      .where(and(eq(captionTracks.id, trackId), eq(captionTracks.origin, 'file')))
      .returning(),
  )
  if (!track) throw new Sentence('These captions are not here any more, or they belong to the scripts.', 404)
  return track.lectureId
}
