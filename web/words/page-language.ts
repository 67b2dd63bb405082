/** The language of a page: as it was chosen in this browser, else as the browser wants it. Set before anything is drawn; a change loads the page anew. */
import type { Messages } from '@lingui/core'
import { isLanguage, type Language, languageFor } from '#core/words/languages.ts'
import { directionOf, speak } from '#core/words/say.ts'

const KEY = 'interface language'
const JUST_CHOSEN = 'interface language was chosen'
/** English with accents, and longer: layouts are tried with it. It is offered nowhere. */
const PSEUDO = 'pseudo'

export type Catalogues = Record<Language | typeof PSEUDO, () => Promise<{ default: Messages }>>

function stored(): string | null {
  try {
    return localStorage.getItem(KEY)
  } catch {
    // a page opened from a disk may not be allowed to remember anything
    return null
  }
}

/** Where nothing can be remembered a choice would be gone with the page that it loads anew. */
export function canChoose(): boolean {
  try {
    localStorage.getItem(KEY)
    return true
  } catch {
    return false
  }
}

/** What was chosen; null where the page follows the browser. */
export function chosenLanguage(): Language | null {
  const chosen = stored()
  return chosen !== null && isLanguage(chosen) ? chosen : null
}

/** @param language null to follow the browser */
export function chooseLanguage(language: Language | null) {
  if (language === null) localStorage.removeItem(KEY)
  else localStorage.setItem(KEY, language)
  sessionStorage.setItem(JUST_CHOSEN, '1')
  location.reload()
}

/** Whether the page was loaded anew for its language, told once: the focus goes back to the choice. */
export function wasJustChosen(): boolean {
  try {
    const isSo = sessionStorage.getItem(JUST_CHOSEN) !== null
    sessionStorage.removeItem(JUST_CHOSEN)
    return isSo
  } catch {
    return false
  }
}

/** Loads the page's words and sets its language and direction. @throws where they cannot be loaded */
export async function speakAsReader(catalogues: Catalogues) {
  const language = chosenLanguage() ?? languageFor(navigator.languages)
  const { default: catalogue } = await catalogues[stored() === PSEUDO ? PSEUDO : language]()
  const region = navigator.languages.find((tag) => tag.toLowerCase().startsWith(`${language}-`))
  speak(language, catalogue, region)
  document.documentElement.lang = language
  document.documentElement.dir = directionOf(language)
}
