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

export const TIMED_LANGUAGES: ReadonlySet<string> = TIMED
