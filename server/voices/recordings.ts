/** What others record by a link: theirs until it is sent, taken back whenever they want, and gone on the day that was set. */

import { and, asc, count, eq, inArray, isNotNull, isNull, lt, or } from 'drizzle-orm'
import { isOpen, mayComeLate, VOICE_BOUNDS } from '#core/voices/voice-link.ts'
import { unpacked } from '#core/words/packed.ts'
import { type Message, message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import type { Tables } from '#server/db/database.ts'
import { clips, takes } from '#server/db/schema.ts'
import { voiceLinks, voices } from '#server/db/voices-schema.ts'
import { setTakeDeleted } from '#server/domain/lectures/edit.ts'
import { beginTake, type NewTake } from '#server/domain/takes/takes.ts'
import { asUserFacing, UserFacingError } from '#server/errors/user-facing-error.ts'
import { release } from '#server/maintenance/used-files.ts'
import { mustHaveRoom } from '#server/people/quotas.ts'
import { findVoiceLink, mustBeOpen, type VoiceLinkRow } from './links.ts'
import type { Voice } from './voices.ts'

/** A recording that was taken back can be given again for so long. */
const WITHDRAWN_MS = 24 * 3600_000

/** As who made it sees it. */
export interface OwnRecording {
  id: string
  slideId: string
  samples: number
  startedAt: number
  isSealed: boolean
  state: 'unsent' | 'sent' | 'withdrawn'
  /** It was put together after something failed. */
  recovered: boolean
  isTidied: boolean
  problem: Message | null
}

/** @returns in the order in which they were made */
export async function ownRecordings(read: Tables, voiceId: string): Promise<OwnRecording[]> {
  const rows = await read.select().from(takes).where(eq(takes.voiceId, voiceId)).orderBy(asc(takes.startedAt))
  return rows
    .filter((row) => row.deletedAt === null || row.voiceState === 'withdrawn')
    .map((row) => ({
      id: row.id,
      slideId: row.slideId,
      samples: row.samples,
      startedAt: row.startedAt,
      isSealed: row.state === 'sealed',
      state: row.voiceState ?? 'unsent',
      recovered: row.recovered,
      isTidied: row.analysis !== null,
      problem: row.problem === null ? null : unpacked(row.problem),
    }))
}

const notYours = () => new UserFacingError(message('This recording is not here, or it is not yours.'), 404)

/** @throws UserFacingError (404) where it is none of theirs */
export async function ownTake(read: Tables, voice: Voice, takeId: string): Promise<typeof takes.$inferSelect> {
  const [row] = await read
    .select()
    .from(takes)
    .where(and(eq(takes.id, takeId), eq(takes.voiceId, voice.id)))
  if (!row) throw notYours()
  return row
}

/** @throws UserFacingError (429) where a link has as much as it may */
async function mustHaveBounds(read: Tables, voice: Voice) {
  const { takesPerVoice, takesPerLink } = VOICE_BOUNDS
  const own = await read.$count(takes, and(eq(takes.voiceId, voice.id), isNull(takes.deletedAt)))
  if (own >= takesPerVoice)
    throw new UserFacingError(
      message(
        'You have recorded {takesPerVoice} times, which is the most by one link. Withdraw what you do not need, then go on.',
        {
          takesPerVoice,
        },
      ),
      429,
    )
  // what was taken back lies on the disk for a day more
  const isThere = or(isNull(takes.deletedAt), eq(takes.voiceState, 'withdrawn'))
  const [all] = await read
    .select({ takes: count() })
    .from(takes)
    .innerJoin(voices, and(eq(voices.id, takes.voiceId), eq(voices.token, voice.token)))
    .where(isThere)
  if ((all?.takes ?? 0) >= takesPerLink)
    throw new UserFacingError(
      message(
        'This link has {takesPerLink} recordings, which is the most it takes. Ask the teacher who gave it to you for another one; what you have recorded stays.',
        { takesPerLink },
      ),
      429,
    )
}

/** @returns why nothing more can be recorded by a link, which is said before anybody speaks; null where it can */
export async function refusalOf(context: AppContext, link: VoiceLinkRow, voice: Voice | null): Promise<Message | null> {
  try {
    mustBeOpen(link)
    if (voice) await mustHaveBounds(context.db.read, voice)
    await mustHaveRoom(context, link.lectureId, 'recorded')
    return null
  } catch (error) {
    const { said, status } = asUserFacing(error)
    if (status === 500) throw error
    return said
  }
}

/** Begins a recording by a link. Calling again with the same id changes nothing. */
export async function beginVoiceTake(
  context: AppContext,
  link: VoiceLinkRow,
  voice: Voice,
  id: string,
  input: Pick<NewTake, 'slideId' | 'microphone' | 'startedAt'>,
) {
  const { read } = context.db
  const [known] = await read.select().from(takes).where(eq(takes.id, id))
  if (known) {
    if (known.voiceId !== voice.id) throw notYours()
    return
  }
  const now = Date.now()
  if (!isOpen(link, now) && !mayComeLate(link, input.startedAt, now)) mustBeOpen(link)
  if (!link.slideIds.includes(input.slideId))
    throw new UserFacingError(
      message('The slide this recording is for is not here any more. The recording is kept in this browser.'),
      404,
    )
  await mustHaveBounds(read, voice)
  await beginTake(
    context,
    id,
    { ...input, isContinuous: false },
    { voiceId: voice.id, speaker: voice.name, isAnswer: link.kind === 'class' },
  )
}

/** Chunks of a second, so that a page of ours never comes to it by accident. */
export function mustBeShort(chunk: number) {
  const { minutesPerTake } = VOICE_BOUNDS
  if (chunk >= minutesPerTake * 60 + 60)
    throw new UserFacingError(
      message('A recording by a link lasts {minutesPerTake} minutes at most. Stop, and go on with another one.', {
        minutesPerTake,
      }),
      413,
    )
}

/** Gives a recording to the lecture. */
export async function sendRecording(context: AppContext, voice: Voice, takeId: string) {
  const take = await ownTake(context.db.read, voice, takeId)
  if (take.state !== 'sealed')
    throw new UserFacingError(message('This recording is still on its way. Wait a moment, then send it.'), 409)
  if (take.voiceState !== 'unsent') return
  await context.db.write((tx) => tx.update(takes).set({ voiceState: 'sent' }).where(eq(takes.id, takeId)))
  await tellLecture(context, voice)
}

/** Takes a recording back, heard nowhere from then on and gone after a day; or brings it back, to be sent or not. */
export async function setWithdrawn(context: AppContext, voice: Voice, takeId: string, withdrawn: boolean) {
  const take = await ownTake(context.db.read, voice, takeId)
  if (withdrawn === (take.voiceState === 'withdrawn')) return
  const voiceState = withdrawn ? 'withdrawn' : 'unsent'
  await context.db.write((tx) => tx.update(takes).set({ voiceState }).where(eq(takes.id, takeId)))
  await setTakeDeleted(context.db, takeId, withdrawn)
  await tellLecture(context, voice)
}

async function tellLecture({ db, events }: AppContext, voice: Voice) {
  const { lectureId } = await findVoiceLink(db.read, voice.token)
  events.tell({ type: 'lecture', lectureId })
}

/** Removes recordings with all that was made of them, at once: they belong to somebody who wants them gone. */
async function removeTakes(context: AppContext, ids: readonly string[]) {
  const { db, journals, events } = context
  for (const id of ids) {
    const { lectureId } = await setTakeDeleted(db, id, true)
    const files = await db.write(async (tx) => {
      const made = await tx.select({ sound: clips.sound, peaks: clips.peaks }).from(clips).where(eq(clips.takeId, id))
      const [take] = await tx.delete(takes).where(eq(takes.id, id)).returning()
      return [take?.sound, take?.peaks, take?.spectrogram, ...made.flatMap((clip) => [clip.sound, clip.peaks])]
    })
    await journals.remove(id)
    await release(
      context,
      files.filter((name) => typeof name === 'string'),
    )
    events.tell({ type: 'lecture', lectureId })
  }
}

/** What was taken back a day ago, and what came by links whose day has come. */
export async function clearVoices(context: AppContext, now = Date.now()) {
  const { read } = context.db
  const over = await read
    .select({ token: voiceLinks.token })
    .from(voiceLinks)
    .where(and(isNotNull(voiceLinks.recordingsEndAt), lt(voiceLinks.recordingsEndAt, now)))
  const ofLinks =
    over.length === 0
      ? []
      : await read
          .select({ id: voices.id })
          .from(voices)
          .where(
            inArray(
              voices.token,
              over.map(({ token }) => token),
            ),
          )
  const isOver = inArray(
    takes.voiceId,
    ofLinks.map(({ id }) => id),
  )
  const isWithdrawn = and(eq(takes.voiceState, 'withdrawn'), lt(takes.deletedAt, now - WITHDRAWN_MS))
  const gone = await read
    .select({ id: takes.id })
    .from(takes)
    .where(ofLinks.length > 0 ? or(isOver, isWithdrawn) : isWithdrawn)
  await removeTakes(
    context,
    gone.map(({ id }) => id),
  )
  if (ofLinks.length === 0) return
  // with the recordings go the names; nobody can come by the link any more either
  await context.db.write(async (tx) => {
    await tx.delete(voices).where(
      inArray(
        voices.id,
        ofLinks.map(({ id }) => id),
      ),
    )
    await tx
      .update(voiceLinks)
      .set({ revokedAt: now })
      .where(
        and(
          inArray(
            voiceLinks.token,
            over.map(({ token }) => token),
          ),
          isNull(voiceLinks.revokedAt),
        ),
      )
  })
}
