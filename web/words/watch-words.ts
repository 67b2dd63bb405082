/** The words of the watch page. */
import type { Catalogues } from './page-language.ts'

export const WATCH_WORDS: Catalogues = {
  en: () => import('virtual:words/watch/en'),
  de: () => import('virtual:words/watch/de'),
  fr: () => import('virtual:words/watch/fr'),
  es: () => import('virtual:words/watch/es'),
  ar: () => import('virtual:words/watch/ar'),
  pseudo: () => import('virtual:words/watch/pseudo'),
}
