/** The words of the author's pages. */
import type { Catalogues } from './page-language.ts'

export const AUTHOR_WORDS: Catalogues = {
  en: () => import('virtual:words/author/en'),
  de: () => import('virtual:words/author/de'),
  fr: () => import('virtual:words/author/fr'),
  es: () => import('virtual:words/author/es'),
  ar: () => import('virtual:words/author/ar'),
  pseudo: () => import('virtual:words/author/pseudo'),
}
