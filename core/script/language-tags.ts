/** Tags of languages (BCP 47), without what checks them: every page may know these. */

/** @returns the language without its region or script */
export const bareLanguage = (tag: string) => tag.split('-')[0]!.toLowerCase()

/** @returns a language's name in English; its tag where it has none */
export function languageInEnglish(language: string): string {
  try {
    return new Intl.DisplayNames('en', { type: 'language' }).of(language) ?? language
  } catch {
    return language
  }
}
