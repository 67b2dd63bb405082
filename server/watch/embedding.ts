/** Watch pages that stand in other pages: which may show one, what stands there where none may, and what oEmbed tells. */
import { escapeUTF8 } from 'entities'
import { z } from 'zod'
import { embedCode, frameWithin } from '#core/edition/embedding/embed-code.ts'
import { originOf } from '#core/edition/embedding/site.ts'
import type { EditionManifest } from '#core/edition/manifest.ts'
import type { Language } from '#core/words/languages.ts'
import { directionOf, message } from '#core/words/say.ts'
import { sayIn } from '#core/words/say-in.ts'
import type { Asker } from '#server/config/asker.ts'

/** Sites that may show a link's page: null for none, and every one where the list is empty. */
export type EmbedIn = string[] | null

/** Of the watch page, as whoever asks reaches it. */
export const watchAddress = ({ host, isSecure }: Pick<Asker, 'host' | 'isSecure'>, token: string) =>
  `${isSecure ? 'https' : 'http'}://${host}/watch/${token}`

const readUrl = (text: string) => new URL(text)

export const Site = z
  .string()
  .max(300)
  .refine((written) => originOf(written, readUrl) !== null, message('A site is written like https://learn.school.example.').id)
  .transform((written) => originOf(written, readUrl)!)

/** @see Content Security Policy Level 3, §6.4.2 "frame-ancestors" */
export const frameAncestors = (embedIn: EmbedIn): string[] =>
  embedIn === null ? ["'none'"] : embedIn.length === 0 ? ['*'] : embedIn

const FRAMES = new Set(['iframe', 'frame', 'embed', 'object'])

/**
 * Whether another page asks for the page and may not have it.
 *
 * @param destination what it is asked for (Fetch Metadata, §2.1 "Sec-Fetch-Dest")
 * @param referrer of the page that shows it; where it is not told, the browser itself refuses by `frameAncestors`
 */
export function isRefused(embedIn: EmbedIn, destination: string | undefined, referrer: string | undefined): boolean {
  if (!destination || !FRAMES.has(destination)) return false
  if (embedIn === null) return true
  const origin = referrer ? originOf(referrer, readUrl) : null
  return embedIn.length > 0 && origin !== null && !embedIn.includes(origin)
}

/** What stands in another page that may not show the lecture: a sentence, and the way to it. */
export function refusalPage(language: Language, address: string): string {
  const said = escapeUTF8(sayIn(language, message('This lecture may not be shown inside this page.')))
  const open = escapeUTF8(sayIn(language, message('Open it on its own page')))
  const style =
    'font: 1rem/1.5 system-ui, sans-serif; display: grid; place-content: center; text-align: center; min-height: 90vh; margin: 1rem'
  return `<!doctype html><html lang="${language}" dir="${directionOf(language)}"><head><meta charset="utf-8" /><title>${said}</title></head><body style="${style}"><p>${said}</p><p><a href="${escapeUTF8(address)}" target="_blank" rel="noopener">${open}</a></p></body></html>`
}

/** Where pages that list what they show ask about a link. @param address of the watch page, with its origin */
export const oembedAddress = (address: string) =>
  `${new URL(address).origin}/oembed?format=json&url=${encodeURIComponent(address)}`

/** @see oEmbed 1.0 (oembed.com), §2.3.4 "Response parameters", §2.3.4.2 "The video type" */
export function oembed(
  { title, author = '' }: Pick<EditionManifest, 'title' | 'author'>,
  address: string,
  most: Parameters<typeof frameWithin>[0],
) {
  const frame = frameWithin(most)
  return {
    version: '1.0',
    type: 'video',
    title,
    ...(author === '' ? {} : { author_name: author }),
    provider_name: 'Tidy Lectern',
    provider_url: new URL(address).origin,
    ...frame,
    html: embedCode(address, title, frame),
  }
}
