/** Languages in which people read the product. */

export const LANGUAGES = {
  en: { name: 'English', direction: 'ltr' },
  de: { name: 'Deutsch', direction: 'ltr' },
  fr: { name: 'Français', direction: 'ltr' },
  es: { name: 'Español', direction: 'ltr' },
  ar: { name: 'العربية', direction: 'rtl' },
} as const

export type Language = keyof typeof LANGUAGES

export const isLanguage = (tag: string): tag is Language => Object.hasOwn(LANGUAGES, tag)

/**
 * The first of somebody's languages that the product speaks.
 *
 * @param wanted tags (BCP 47) as the reader prefers them
 */
export function languageFor(wanted: readonly string[]): Language {
  for (const tag of wanted) {
    const bare = tag.split('-')[0]!.toLowerCase()
    if (isLanguage(bare)) return bare
  }
  return 'en'
}
