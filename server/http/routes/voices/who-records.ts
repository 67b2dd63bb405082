/** Who asks by a link to record: the link, and who came by it. */
import type { Context } from 'hono'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import type { WhoAsks } from '#server/http/permissions/who-may.ts'
import { findVoiceLink, type VoiceLinkRow } from '#server/voices/links.ts'
import { type Voice, voiceByKey } from '#server/voices/voices.ts'

export type Env = { Variables: WhoAsks }

/** What a browser shows to be somebody who came by the link before. */
const VOICE_KEY = 'x-voice'

export function whoRecords({ db }: Pick<AppContext, 'db'>) {
  const linkOf = (c: Context<Env>) => findVoiceLink(db.read, c.req.param('token') ?? '')
  const voiceOf = (c: Context<Env>) => voiceByKey(db.read, c.req.param('token') ?? '', c.req.header(VOICE_KEY))
  return {
    linkOf,
    /** null where the browser shows nobody of the link. */
    voiceOf,
    /** @throws UserFacingError (401) where the browser shows nobody of the link */
    async somebody(c: Context<Env>): Promise<{ link: VoiceLinkRow; voice: Voice }> {
      const link = await linkOf(c)
      const voice = await voiceOf(c)
      if (!voice) throw new UserFacingError(message('This browser is not known by this link any more. Open the link again.'), 401)
      return { link, voice }
    },
  }
}
