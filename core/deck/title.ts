/** What a page says about itself: its title and a first description of its picture. */

export interface PageText {
  /** One run of text on a page. */
  text: string
  /** Points. */
  fontSize: number
  /** Distance of the run from the page's top, points. */
  top: number
}

const LONGEST_TITLE = 120
const LONGEST_ALT = 1000

/**
 * The largest text of a page, runs of nearly the same size joined in reading order.
 *
 * @returns '' for a page without text
 */
export function pageTitle(runs: readonly PageText[]): string {
  const said = runs.filter((run) => /[\p{L}\p{N}]/u.test(run.text))
  const largest = Math.max(0, ...said.map((run) => run.fontSize))
  const titles = said.filter((run) => run.fontSize > largest * 0.95)
  return titles
    .map((run) => run.text.trim())
    .join(' ')
    .replace(/\s+/g, ' ')
    .slice(0, LONGEST_TITLE)
    .trim()
}

/** All text of a page as one line: a suggestion for the picture's alt text. */
export function pageAltText(runs: readonly PageText[]): string {
  return runs
    .map((run) => run.text.trim())
    .filter(Boolean)
    .join(' ')
    .replace(/\s+/g, ' ')
    .slice(0, LONGEST_ALT)
    .trim()
}

const PICTURE = /\.(png|jpe?g|gif|svgz?|bmp|tiff?|webp|emf|wmf|heic|avif)$/i
const PATH = /^(\/|\\\\|[a-z]:[\\/]|file:|https?:)/i

/**
 * Whether a text only says where a picture lay: a path or a name of a file, as programs put it where a description belongs. A sentence that ends in
 * a file's name is a description.
 */
export function isFileName(text: string): boolean {
  const trimmed = text.trim()
  return PICTURE.test(trimmed) ? PATH.test(trimmed) || !/\s/.test(trimmed) : PATH.test(trimmed) && !/\s/.test(trimmed)
}
