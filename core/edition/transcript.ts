/** What is said, to be read: as a page that prints well and as plain text. */

import { toSeconds } from '#core/timing/clocks.ts'
import { message } from '#core/words/say.ts'
import { directionOfText, sayIn } from '#core/words/say-in.ts'
import type { EditionManifest } from './manifest.ts'

export interface TranscriptPart {
  title: string
  /** Heading of the section that begins here; '' where none does. */
  section: string
  altText: string
  startSeconds: number
  /** What is said, in sentences of the captions; empty on a slide without voice. */
  said: { startSeconds: number; text: string }[]
}

/** @param cues in order, seconds of the lecture, texts as people read them */
export function transcriptOf(
  manifest: Pick<EditionManifest, 'chapters' | 'language'>,
  cues: readonly { start: number; text: string }[],
): TranscriptPart[] {
  return manifest.chapters.map((chapter, i) => {
    const from = toSeconds(chapter.startSamples)
    const to = toSeconds(chapter.startSamples + chapter.lengthSamples)
    return {
      title: chapter.title || sayIn(manifest.language, message('Slide {number}', { number: i + 1 })),
      section: chapter.section ?? '',
      altText: chapter.altText,
      startSeconds: from,
      said: cues
        .filter((cue) => cue.start >= from && cue.start < to)
        .map((cue) => ({ startSeconds: cue.start, text: cue.text.replaceAll('\n', ' ') })),
    }
  })
}

/** @returns h:mm:ss, or m:ss within the first hour */
export function readingClock(seconds: number): string {
  const whole = Math.floor(seconds)
  const [hours, minutes] = [Math.floor(whole / 3600), Math.floor(whole / 60) % 60]
  const two = (n: number) => String(n).padStart(2, '0')
  return hours > 0 ? `${hours}:${two(minutes)}:${two(whole % 60)}` : `${minutes}:${two(whole % 60)}`
}

interface Heading {
  title: string
  author: string
  language: string
}

export function transcriptText({ title, author }: Heading, parts: readonly TranscriptPart[]): string {
  const heading = [title, ...(author ? [author] : [])].join('\n')
  const sections = parts.map((part) =>
    [
      ...(part.section ? [part.section.toUpperCase(), ''] : []),
      `${readingClock(part.startSeconds)}  ${part.title}`,
      ...(part.altText && part.altText !== part.title ? [`[${part.altText}]`] : []),
      ...(part.said.length > 0 ? [part.said.map((s) => s.text).join(' ')] : []),
    ].join('\n'),
  )
  return `${[heading, ...sections].join('\n\n')}\n`
}

const escaped = (text: string) => text.replace(/[&<>"]/g, (c) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[c]!)

const STYLE = `body{max-width:42rem;margin:2rem auto;padding:0 1rem;font:1.1rem/1.6 Literata,Georgia,serif;color:#1d2a2e;background:#fff}
h1{line-height:1.2}h2,h3{margin:2rem 0 .25rem;break-after:avoid;font-size:1.2rem}h2:has(+section>h3){margin-top:3rem;font-size:1.5rem}time{color:#5b6669;font-variant-numeric:tabular-nums;font-size:.9rem}
.picture{color:#4a5659;font-style:italic;margin:.25rem 0}p{margin:.25rem 0}@media print{body{margin:0;max-width:none}}`

/** A page of its own, with no other file and no script. */
export function transcriptHtml({ title, author, language }: Heading, parts: readonly TranscriptPart[]): string {
  const divided = parts.some((part) => part.section)
  const level = divided ? 'h3' : 'h2'
  const sections = parts.map((part) => {
    const section = part.section ? `<h2>${escaped(part.section)}</h2>\n` : ''
    const picture = part.altText && part.altText !== part.title ? `\n<p class="picture">${escaped(part.altText)}</p>` : ''
    const said = part.said.length > 0 ? `\n<p>${escaped(part.said.map((s) => s.text).join(' '))}</p>` : ''
    const time = readingClock(part.startSeconds)
    return `${section}<section>\n<${level}><time>${time}</time> ${escaped(part.title)}</${level}>${picture}${said}\n</section>`
  })
  return `<!doctype html>
<html lang="${escaped(language)}" dir="${directionOfText(language)}">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>${escaped(title)}</title>
<style>${STYLE}</style>
</head>
<body>
<main>
<h1>${escaped(title)}</h1>${author ? `\n<p>${escaped(author)}</p>` : ''}
${sections.join('\n')}
</main>
</body>
</html>
`
}
