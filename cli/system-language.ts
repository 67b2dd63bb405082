/** The language of whoever calls: that of their system, where it is one of ours. */
import { i18n } from '@lingui/core'
import { compileMessage } from '@lingui/message-utils/compileMessage'
import { languageFor } from '#core/words/languages.ts'
import { speak } from '#core/words/say.ts'
import { CATALOGUES } from '#core/words/say-in.ts'

/**
 * From now on all is said in the language that the environment names.
 *
 * @param env with LC_ALL, LC_MESSAGES or LANG, the first that is set (POSIX.1-2017, "Internationalization Variables"): `de_AT.UTF-8`
 */
export function speakSystemLanguage(env: Record<string, string | undefined>) {
  const named = env.LC_ALL || env.LC_MESSAGES || env.LANG || 'C'
  const tag = named.replace(/[.@].*$/, '').replace('_', '-')
  const language = languageFor([tag])
  i18n.setMessagesCompiler(compileMessage)
  speak(language, CATALOGUES[language], /^[a-z]{2,3}-[A-Z]{2}$/.test(tag) ? tag : undefined)
}
