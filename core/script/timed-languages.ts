/** Languages whose words can be found in a recording: those that the synthesiser has a voice for. */
import { bareLanguage } from './language-tags.ts'

/** BCP 47, without regions. The synthesiser was asked for each of them. */
const TIMED = new Set(
  'af am an ar as az ba be bg bn bs ca cmn cs cv cy da de el en eo es et eu fa fi fo fr ga gd gn gu hak he hi hr ht hu hy ia id io is it ja jbo ka kk kl kn ko kok ku ky la lb lfn lt lv mi mk ml mr ms mt my nb ne nl no om or pa pap pl pt qu quc ro ru sd shn si sk sl smj sq sr sv sw ta te th ti tk tn tr tt ug uk ur uz vi yue zh'.split(
    ' ',
  ),
)

/** Whether captions can be timed by the words of a script; without that they are spread over the speech. */
export const canBeTimed = (language: string) => TIMED.has(bareLanguage(language))

/**
 * Languages without a voice of their own that are read by a related one's. Only Romance ones: Spanish read by Italian and French read by
 * Spanish have up to 6 % of the found sentences off and up to a quarter not found, English read by its relatives far more (`npm run bench
 * -- related`). Whose relative a language is: ISO 639-5, and from memory.
 */
const RELATED: Readonly<Record<string, string>> = {
  ast: 'es',
  co: 'it',
  ext: 'es',
  fur: 'it',
  gl: 'es',
  lad: 'es',
  lij: 'it',
  lmo: 'it',
  mwl: 'es',
  nap: 'it',
  oc: 'es',
  pms: 'it',
  rm: 'it',
  sc: 'it',
  scn: 'it',
  vec: 'it',
  wa: 'fr',
}

/** @returns the language (BCP 47) whose voice reads scripts in this one, which has none itself; null where none is close enough */
export const relatedVoice = (language: string): string | null =>
  canBeTimed(language) ? null : (RELATED[bareLanguage(language)] ?? null)

export const TIMED_LANGUAGES: ReadonlySet<string> = TIMED
