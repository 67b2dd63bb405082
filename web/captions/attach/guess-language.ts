/** In which language a caption file is: what its name says, and how its text reads. */
import { Language } from '#core/model/language.ts'

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

/** Fewer letters than these read like many languages. */
const LEAST_LETTERS = 40
/** How much likelier the best language must be than the next. */
const CLEARLY = 1.3

/** @returns the language that a text reads like; null where nothing can be said */
export async function languageOfText(text: string): Promise<string | null> {
  if (text.replace(/[^\p{L}]/gu, '').length < LEAST_LETTERS) return null
  // some 130 kB, and wanted only here
  const { detectAll } = await import('tinyld')
  const [best, next] = detectAll(text.slice(0, 5000))
  const isClear = best !== undefined && best.accuracy > CLEARLY * (next?.accuracy ?? 0)
  return isClear && Language.safeParse(best.lang).success ? best.lang : null
}

const bare = (tag: string) => tag.split('-')[0]

export interface GuessedLanguage {
  language: string
  /** Name and text say different languages: what each says. */
  contradiction: { byName: string; byText: string } | null
}

/** @param usual where neither name nor text says anything */
export function guessLanguage(byName: string | null, byText: string | null, usual: string): GuessedLanguage {
  if (byName && byText && bare(byName) !== bare(byText)) return { language: byText, contradiction: { byName, byText } }
  if (byName) return { language: byName, contradiction: null }
  // "pt-BR" is not less right than "pt" where the lecture is
  return { language: byText && bare(byText) !== bare(usual) ? byText : usual, contradiction: null }
}
