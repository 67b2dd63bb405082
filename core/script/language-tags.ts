/** Tags of languages (BCP 47), without what checks them: every page may know these. */

/** @returns the language without its region or script */
export const bareLanguage = (tag: string) => tag.split('-')[0]!.toLowerCase()
