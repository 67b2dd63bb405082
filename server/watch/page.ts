/** The learner's page as it is sent: with what a message shows of its link, and with the video for browsers without scripts. */

import { escapeUTF8 } from 'entities'
import { videosOf } from '#core/edition/manifest.ts'
import type { Language } from '#core/words/languages.ts'
import { message } from '#core/words/say.ts'
import { sayIn } from '#core/words/say-in.ts'
import { oembedAddress } from './embedding.ts'
import type { openLink } from './links.ts'

type OpenedEdition = Awaited<ReturnType<typeof openLink>>

/** Before the page's own title, which its script sets again. */
const TITLE = /<title>.*<\/title>/
const NO_SCRIPT = '<div id="root"></div>'

const meta = (property: string, content: string) => `<meta property="${property}" content="${escapeUTF8(content)}" />`

/**
 * The page with the words of the learner's language on their way, as far as the browser tells which it is.
 *
 * @param page as it was built
 * @param assets names of the built files
 */
export function pageWithWords(page: string, assets: readonly string[], language: Language): string {
  const words = assets.find((name) => name.startsWith(`watch-words-${language}-`) && name.endsWith('.js'))
  return words ? page.replace('</head>', `  <link rel="modulepreload" href="/assets/${words}" />\n  </head>`) : page
}

/**
 * @param page as it was built
 * @param files of the edition, by name: an early one has no poster and no transcript
 * @param address of the link, with its origin
 * @see The Open Graph protocol (ogp.me); oEmbed 1.0, §4 "Discovery"; HTML Standard, §4.12.2 for `noscript`
 */
export function describedPage(
  page: string,
  { id, manifest, embedIn }: OpenedEdition,
  files: ReadonlySet<string>,
  address: string,
): string {
  const { title, chapters, captions, author = '' } = manifest
  const file = (name: string) => `${address}/files/${id}/${name}`
  const path = (name: string) => escapeUTF8(`${new URL(file(name)).pathname}`)
  const slides = chapters.map((chapter) => chapter.title).filter(Boolean)
  const description = [author, slides.join(' · ')].filter(Boolean).join(': ').slice(0, 300)
  const [video] = videosOf(manifest)
  const head = [
    `<title>${escapeUTF8(title)}</title>`,
    `<meta name="description" content="${escapeUTF8(description)}" />`,
    meta('og:type', 'video.other'),
    meta('og:title', title),
    meta('og:description', description),
    meta('og:url', address),
    ...(files.has('poster.jpg') ? [meta('og:image', file('poster.jpg'))] : []),
    ...(embedIn === null
      ? []
      : [
          `<link rel="alternate" type="application/json+oembed" href="${escapeUTF8(oembedAddress(address))}" title="${escapeUTF8(title)}" />`,
        ]),
    // asked for with the script, and not after it
    `<link rel="preload" as="fetch" crossorigin href="${escapeUTF8(new URL(`${address}/edition`).pathname)}" />`,
  ].join('\n    ')
  const tracks = captions.map(
    (track, i) =>
      `<track kind="captions" src="${path(track.file)}" srclang="${escapeUTF8(track.language)}" label="${escapeUTF8(track.label)}"${i === 0 ? ' default' : ''} />`,
  )
  const poster = files.has('poster.jpg') ? ` poster="${path('poster.jpg')}"` : ''
  const watch = `<video controls preload="metadata"${poster} src="${path(video?.file ?? 'video.mp4')}" style="width: 100%">${tracks.join('')}</video>`
  const read = files.has('transcript.html')
    ? `<p><a href="${path('transcript.html')}">${escapeUTF8(sayIn(manifest.language, message('Transcript')))}</a></p>`
    : ''
  const plain = `<noscript><main><h1>${escapeUTF8(title)}</h1>${watch}${read}</main></noscript>`
  // a function: what a title holds is no pattern of a replacement
  return page.replace(TITLE, () => head).replace(NO_SCRIPT, (root) => `${root}\n    ${plain}`)
}
