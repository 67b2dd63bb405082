/** Links by which others lend a lecture their voices: guests who speak to some of its slides, and a class whose answers its teacher hears. */

import { message } from '#core/words/say.ts'
import { z } from '#core/zod.ts'

export const VOICE_LINK_KINDS = ['guest', 'class'] as const
export type VoiceLinkKind = (typeof VOICE_LINK_KINDS)[number]

/** Where a recording of somebody else's stands: theirs alone until it is sent, and again when it was taken back. */
export const VOICE_STATES = ['unsent', 'sent', 'withdrawn'] as const
export type VoiceState = (typeof VOICE_STATES)[number]

/** How much comes by one link: who has it may be anybody. */
export const VOICE_BOUNDS = { voicesPerLink: 200, takesPerVoice: 60, takesPerLink: 400, minutesPerTake: 30 }

/** What was recorded before its link closed may come so much later. */
export const LATE_MS = 7 * 24 * 3600_000

export const VoiceName = z.string().trim().min(1, message('Type your name, so that one knows whose voice it is.').id).max(80)

const name = z.string().trim().min(1, message('A link needs a name.').id).max(100)
const slideIds = z.array(z.string()).min(1, message('Choose one slide at least.').id).max(1000)
/** Milliseconds since 1970. */
const moment = z.number().int().positive().nullable()

export const NewVoiceLink = z.strictObject({ kind: z.enum(VOICE_LINK_KINDS), name, slideIds })
export type NewVoiceLink = z.infer<typeof NewVoiceLink>

export const VoiceLinkChange = z.strictObject({
  name: name.optional(),
  slideIds: slideIds.optional(),
  revoked: z.boolean().optional(),
  /** null: it never runs out. */
  expiresAt: moment.optional(),
  /** null takes the passcode away. */
  passcode: z.string().min(4, message('A passcode has 4 characters at least.').id).max(200).nullable().optional(),
  /** When all that was recorded by it goes; null: never by itself. */
  recordingsEndAt: moment.optional(),
})
export type VoiceLinkChange = z.infer<typeof VoiceLinkChange>

/** @returns whether something may be recorded by a link now */
export const isOpen = (link: { revokedAt: number | null; expiresAt: number | null }, now: number): boolean =>
  link.revokedAt === null && (link.expiresAt === null || link.expiresAt >= now)

/** @returns whether what was begun at a moment may still come by a link that is closed by now */
export const mayComeLate = (
  link: { revokedAt: number | null; expiresAt: number | null },
  startedAt: number,
  now: number,
): boolean => {
  const closedAt = Math.min(link.revokedAt ?? Number.POSITIVE_INFINITY, link.expiresAt ?? Number.POSITIVE_INFINITY)
  return startedAt <= closedAt && now <= closedAt + LATE_MS
}
