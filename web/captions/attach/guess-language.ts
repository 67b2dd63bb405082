/** In which language a caption file is: what its name says, and how its text reads. */

import { Language } from '#core/language-tag.ts'
import { bareLanguage } from '#core/script/language-tags.ts'

/** `lecture.fr.vtt` and `fr.srt` are in French. */
export function languageOfName(name: string): string | null {
  const tag = /(?:^|[._-])([a-z]{2,3}(-[A-Za-z0-9]{2,8})*)\.[^.]+$/.exec(name)?.[1]
  return tag && Language.safeParse(tag).success && new Intl.DisplayNames('en', { type: 'language' }).of(tag) !== tag ? tag : null
}

/** Words of a caption file, without its times and numbers. */
export const wordsOf = (text: string) =>
  text
    .split(/\r?\n/)
    .filter((line) => !/-->/.test(line) && !/^\s*\d*\s*$/.test(line) && !/^(WEBVTT|NOTE|STYLE|REGION)/.test(line))
    .join(' ')
    .replace(/<[^>]*>/g, '')

export interface GuessedLanguage {
  language: string
  /** Name and text say different languages: what each says. */
  contradiction: { byName: string; byText: string } | null
}

/** @param usual where neither name nor text says anything */
export function guessLanguage(byName: string | null, byText: string | null, usual: string): GuessedLanguage {
  if (byName && byText && bareLanguage(byName) !== bareLanguage(byText))
    return { language: byText, contradiction: { byName, byText } }
  if (byName) return { language: byName, contradiction: null }
  // "pt-BR" is not less right than "pt" where the lecture is
  return { language: byText && bareLanguage(byText) !== bareLanguage(usual) ? byText : usual, contradiction: null }
}
