/** Links by which others record for a lecture: made and changed by its teachers, opened by whoever has them. */

import { and, desc, eq, inArray, isNotNull, isNull, or } from 'drizzle-orm'
import { isOpen, type NewVoiceLink, type VoiceLinkChange } from '#core/voices/voice-link.ts'
import { message } from '#core/words/say.ts'
import type { Database, Tables } from '#server/db/database.ts'
import { lectures, slides, steps, takes } from '#server/db/schema.ts'
import { isShownSlide } from '#server/db/shown.ts'
import { voiceLinks, voices } from '#server/db/voices-schema.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { hashPasscode, isAdmission } from '#server/watch/passcode.ts'
import { newToken } from '#server/watch/token.ts'

export type VoiceLinkRow = typeof voiceLinks.$inferSelect

/** Recordings of each voice: those that were sent, and how many are still theirs alone. */
async function takesByVoice(read: Tables, lectureId: string) {
  const rows = await read
    .select({ id: takes.id, voiceId: takes.voiceId, state: takes.voiceState })
    .from(takes)
    .innerJoin(slides, eq(slides.id, takes.slideId))
    .where(and(eq(slides.lectureId, lectureId), isNotNull(takes.voiceId), isNull(takes.deletedAt)))
  return (voiceId: string, state: 'sent' | 'unsent') =>
    rows.filter((row) => row.voiceId === voiceId && row.state === state).map(({ id }) => id)
}

/** @returns links of a lecture, the newest first, with who came by them */
export async function readVoiceLinks(read: Tables, lectureId: string) {
  const rows = await read.select().from(voiceLinks).where(eq(voiceLinks.lectureId, lectureId)).orderBy(desc(voiceLinks.createdAt))
  const who = await read
    .select()
    .from(voices)
    .where(
      inArray(
        voices.token,
        rows.map((row) => row.token),
      ),
    )
  const takesOf = await takesByVoice(read, lectureId)
  return rows.map(({ lectureId: _, passcode, ...link }) => ({
    ...link,
    hasPasscode: passcode !== null,
    voices: who
      .filter((voice) => voice.token === link.token)
      .map(({ id, name }) => ({ id, name, sent: takesOf(id, 'sent'), unsent: takesOf(id, 'unsent').length })),
  }))
}
export type ShownVoiceLink = Awaited<ReturnType<typeof readVoiceLinks>>[number]

/** @throws UserFacingError (422) where one of the slides is none of the lecture's */
async function mustBeSlidesOf(read: Tables, lectureId: string, slideIds: readonly string[]) {
  const known = await read.$count(slides, and(eq(slides.lectureId, lectureId), inArray(slides.id, [...slideIds]), isShownSlide))
  if (known !== new Set(slideIds).size)
    throw new UserFacingError(message('One of the chosen slides is not here any more. Choose again.'), 422)
}

/** @returns its token */
export async function makeVoiceLink(db: Database, lectureId: string, { kind, name, slideIds }: NewVoiceLink): Promise<string> {
  await mustBeSlidesOf(db.read, lectureId, slideIds)
  const token = newToken()
  await db.write((tx) => tx.insert(voiceLinks).values({ token, lectureId, kind, name, slideIds, createdAt: Date.now() }))
  return token
}

const gone = () => new UserFacingError(message('This link is not here any more.'), 404)

export async function voiceLinkRow(read: Tables, token: string): Promise<VoiceLinkRow> {
  const [row] = await read.select().from(voiceLinks).where(eq(voiceLinks.token, token))
  if (!row) throw gone()
  return row
}

/** @returns id of the link's lecture */
export async function changeVoiceLink(db: Database, token: string, change: VoiceLinkChange): Promise<string> {
  const { lectureId } = await voiceLinkRow(db.read, token)
  const { revoked, passcode, ...rest } = change
  if (rest.slideIds) await mustBeSlidesOf(db.read, lectureId, rest.slideIds)
  const hashed = passcode ? await hashPasscode(passcode) : passcode
  await db.write((tx) =>
    tx
      .update(voiceLinks)
      .set({
        ...rest,
        // an update needs one value at least
        token,
        ...(revoked === undefined ? {} : { revokedAt: revoked ? Date.now() : null }),
        ...(hashed === undefined ? {} : { passcode: hashed }),
      })
      .where(eq(voiceLinks.token, token)),
  )
  return lectureId
}

/** The same words whether a link never was, was closed or has run out. */
const closed = () =>
  new UserFacingError(
    message('This link does not open anything any more. Ask the teacher who gave it to you for another one.'),
    404,
  )

/** @throws UserFacingError (404) where there is no such link, or its lecture is gone */
export async function findVoiceLink(read: Tables, token: string): Promise<VoiceLinkRow> {
  const [row] = await read
    .select({ link: voiceLinks })
    .from(voiceLinks)
    .innerJoin(lectures, and(eq(lectures.id, voiceLinks.lectureId), isNull(lectures.deletedAt)))
    .where(eq(voiceLinks.token, token))
  if (!row) throw closed()
  return row.link
}

/** @returns whether a file is a picture of one of the link's slides */
export async function isPictureOf(read: Tables, link: VoiceLinkRow, name: string): Promise<boolean> {
  const ofSlides = and(inArray(steps.slideId, link.slideIds), eq(steps.isPlaced, true))
  return (await read.$count(steps, and(ofSlides, or(eq(steps.picture, name), eq(steps.thumbnail, name))))) > 0
}

/** @throws UserFacingError (404) where nothing can be recorded by it now */
export function mustBeOpen(link: VoiceLinkRow) {
  if (!isOpen(link, Date.now())) throw closed()
}

/** @param admitted what the browser shows of a passcode given before @throws UserFacingError (401) when it wants one first */
export function mustBeAdmitted(link: VoiceLinkRow, admitted: string | undefined) {
  if (link.passcode !== null && !isAdmission(link.token, link.passcode, admitted))
    throw new UserFacingError(message('This link opens with a passcode. Ask the teacher who gave it to you.'), 401)
}
