/** Words as they are compared when something is sought. */

const MARKS = /\p{M}/gu

/** @returns a text without case, accents and line ends; apostrophes and dashes of every kind are one */
export const plainWords = (text: string) =>
  text
    .normalize('NFKD')
    .replace(MARKS, '')
    .toLowerCase()
    .replace(/[’‘ʼ]/g, "'")
    .replace(/[‐‑–—]/g, '-')
    .replace(/\s+/g, ' ')
