/**
 * An edition as a narrated book: a page for each slide, its text in the voice's pace.
 *
 * @see EPUB 3.3, §5 (package document), §7 (navigation document), §9 (media overlays); EPUB Accessibility 1.1, §2 (discovery)
 */
import { rm } from 'node:fs/promises'
import { plainCueText } from '#core/captions/formats/webvtt/cue-text.ts'
import { parseWebVtt } from '#core/captions/formats/webvtt/parse.ts'
import { type EditionChapter, videosOf } from '#core/edition/manifest.ts'
import { type TranscriptPart, transcriptOf } from '#core/edition/transcript.ts'
import { type Question, rightInWords } from '#core/model/question.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { message } from '#core/words/say.ts'
import { directionOfText, sayIn } from '#core/words/say-in.ts'
import type { AppContext } from '#server/context/context.ts'
import type { PackedEdition } from '#server/publish/web-folder.ts'
import type { ZippedFile } from '#server/storage/zip-stream.ts'
import { editionFile } from '#server/watch/editions.ts'
import { escapedXml, XML_HEAD } from './xml.ts'

const AUDIO = 'audio.m4a'
const IMAGE_TYPES: Record<string, string> = { webp: 'image/webp', png: 'image/png', jpg: 'image/jpeg', jpeg: 'image/jpeg' }

const clock = (seconds: number) => `${(Math.round(seconds * 1000) / 1000).toFixed(3)}s`
const two = (index: number) => String(index + 1).padStart(3, '0')

interface Page {
  name: string
  title: string
  section: string
  picture: string
  altText: string
  /** Parts of its text, each with when it is heard; its picture, with all of its time, where nothing is said. */
  said: { id: string; text: string; begin: number; end: number }[]
  /** What is asked after it; read, and not spoken. */
  questions: readonly Question[]
  begin: number
  end: number
}

/** Each part is heard until the next one begins: nothing of the sound is passed over. */
function pageOf(part: TranscriptPart, i: number, { picture, questions = [] }: EditionChapter, end: number): Page {
  const said = part.said.map((one, k) => ({
    id: `t${k + 1}`,
    text: one.text,
    begin: k === 0 ? part.startSeconds : one.startSeconds,
    end: part.said[k + 1]?.startSeconds ?? end,
  }))
  return {
    name: `slide-${two(i)}`,
    title: part.title,
    section: part.section,
    picture,
    altText: part.altText,
    said: said.filter((one) => one.end > one.begin),
    questions,
    begin: part.startSeconds,
    end,
  }
}

const xhtml = (language: string, title: string, body: string) => `${XML_HEAD}
<!DOCTYPE html>
<html xmlns="http://www.w3.org/1999/xhtml" xmlns:epub="http://www.idpf.org/2007/ops" lang="${escapedXml(language)}" xml:lang="${escapedXml(language)}" dir="${directionOfText(language)}">
<head><title>${escapedXml(title)}</title><link rel="stylesheet" href="style.css"/></head>
<body>${body}</body>
</html>
`

/** A question as a book has it: what is right is opened by who wants to see it. */
function questionText(language: string, question: Question): string {
  const { text, explanation } = question
  const options = 'options' in question ? `<ul>${question.options.map((one) => `<li>${escapedXml(one)}</li>`).join('')}</ul>` : ''
  const summary = escapedXml(sayIn(language, message('What is right')))
  const why = explanation === '' ? '' : `<p>${escapedXml(explanation)}</p>`
  return `<section><p>${escapedXml(text)}</p>${options}<details><summary>${summary}</summary><p>${escapedXml(rightInWords(question))}</p>${why}</details></section>`
}

function pageText(language: string, { title, picture, altText, said, questions }: Page): string {
  const text = said.map(({ id, text }) => `<span id="${id}">${escapedXml(text)}</span>`).join(' ')
  const figure = `<figure id="picture"><img src="images/${escapedXml(picture)}" alt="${escapedXml(altText || title)}"/></figure>`
  const asked = questions.map((question) => questionText(language, question)).join('')
  return xhtml(
    language,
    title,
    `<section><h1>${escapedXml(title)}</h1>${figure}${text ? `<p>${text}</p>` : ''}${asked}</section>`,
  )
}

function overlay({ name, said, begin, end }: Page): string {
  const parts = said.length > 0 ? said : [{ id: 'picture', begin, end }]
  const pars = parts.map(
    (part, i) =>
      `<par id="p${i + 1}"><text src="${name}.xhtml#${part.id}"/><audio src="${AUDIO}" clipBegin="${clock(part.begin)}" clipEnd="${clock(part.end)}"/></par>`,
  )
  return `${XML_HEAD}
<smil xmlns="http://www.w3.org/ns/SMIL" xmlns:epub="http://www.idpf.org/2007/ops" version="3.0">
<body><seq id="s" epub:textref="${name}.xhtml">${pars.join('')}</seq></body>
</smil>
`
}

function navigation(language: string, title: string, pages: readonly Page[]): string {
  const groups: { section: string; pages: Page[] }[] = []
  for (const page of pages) {
    if (groups.length === 0 || page.section !== '') groups.push({ section: page.section, pages: [] })
    groups.at(-1)!.pages.push(page)
  }
  const entry = (page: Page) => `<li><a href="${page.name}.xhtml">${escapedXml(page.title)}</a></li>`
  const entries = groups.map(({ section, pages: own }) =>
    section === '' ? own.map(entry).join('') : `<li><span>${escapedXml(section)}</span><ol>${own.map(entry).join('')}</ol></li>`,
  )
  return xhtml(language, title, `<nav epub:type="toc" id="toc"><h1>${escapedXml(title)}</h1><ol>${entries.join('')}</ol></nav>`)
}

interface Book {
  id: string
  title: string
  author: string
  language: string
  modified: Date
  seconds: number
}

function packageDocument({ id, title, author, language, modified, seconds }: Book, pages: readonly Page[]): string {
  const item = (name: string, file: string, type: string, more = '') =>
    `<item id="${name}" href="${escapedXml(file)}" media-type="${type}"${more}/>`
  const images = [...new Set(pages.map((page) => page.picture))]
  const typeOf = (file: string) => IMAGE_TYPES[file.split('.').at(-1)!] ?? 'image/png'
  const durations = pages.map(
    (page) => `<meta property="media:duration" refines="#${page.name}-overlay">${clock(page.end - page.begin)}</meta>`,
  )
  const features = ['synchronizedAudioText', 'alternativeText', 'tableOfContents', 'readingOrder']
  return `${XML_HEAD}
<package xmlns="http://www.idpf.org/2007/opf" version="3.0" unique-identifier="id" xml:lang="${escapedXml(language)}" dir="${directionOfText(language)}" prefix="schema: http://schema.org/">
<metadata xmlns:dc="http://purl.org/dc/elements/1.1/">
<dc:identifier id="id">urn:uuid:${id}</dc:identifier><dc:title>${escapedXml(title)}</dc:title><dc:language>${escapedXml(language)}</dc:language>
${author ? `<dc:creator>${escapedXml(author)}</dc:creator>` : ''}<meta property="dcterms:modified">${modified.toISOString().replace(/\.\d+Z$/, 'Z')}</meta>
<meta property="media:duration">${clock(seconds)}</meta><meta property="media:active-class">said-now</meta>${durations.join('')}
${['textual', 'visual', 'auditory'].map((mode) => `<meta property="schema:accessMode">${mode}</meta>`).join('')}
<meta property="schema:accessModeSufficient">textual,visual</meta><meta property="schema:accessModeSufficient">auditory</meta>
${features.map((feature) => `<meta property="schema:accessibilityFeature">${feature}</meta>`).join('')}
<meta property="schema:accessibilityHazard">unknown</meta>
</metadata>
<manifest>
${item('nav', 'nav.xhtml', 'application/xhtml+xml', ' properties="nav"')}
${item('style', 'style.css', 'text/css')}
${item('audio', AUDIO, 'audio/mp4')}
${images.map((file, i) => item(`image-${i + 1}`, `images/${file}`, typeOf(file), i === 0 ? ' properties="cover-image"' : '')).join('\n')}
${pages.map(({ name }) => item(name, `${name}.xhtml`, 'application/xhtml+xml', ` media-overlay="${name}-overlay"`)).join('\n')}
${pages.map(({ name }) => item(`${name}-overlay`, `${name}.smil`, 'application/smil+xml')).join('\n')}
</manifest>
<spine>${pages.map(({ name }) => `<itemref idref="${name}"/>`).join('')}</spine>
</package>
`
}

const CONTAINER = `${XML_HEAD}
<container version="1.0" xmlns="urn:oasis:names:tc:opendocument:xmlns:container"><rootfiles><rootfile full-path="EPUB/package.opf" media-type="application/oebps-package+xml"/></rootfiles></container>
`
const STYLE = `figure { margin: 0 0 1em }
img { max-width: 100%; height: auto }
.said-now { background: #fff2b3; color: #000 }
`

/** Its sound, of the video that needs least to be done for it. */
async function soundOf({ db, media, store }: AppContext, { id, manifest }: PackedEdition, signal: AbortSignal): Promise<string> {
  const videos = videosOf(manifest)
  const video = videos.find(({ contentType }) => contentType.startsWith('video/mp4')) ?? videos[0]!
  const isMp4 = video.contentType.startsWith('video/mp4')
  const { file } = await editionFile(db.read, id, video.file)
  const out = store.scratchPath('.m4a')
  await store.withLocalFile(file, (path) =>
    media.run(
      [
        ...['-protocol_whitelist', 'file', '-f', isMp4 ? 'mov' : 'matroska', '-i', path, '-vn', '-map', '0:a:0'],
        ...(isMp4 ? ['-c:a', 'copy'] : ['-c:a', 'aac', '-b:a', '96k']),
        ...['-map_metadata', '-1', '-map_chapters', '-1', '-fflags', '+bitexact', '-movflags', '+faststart', '-f', 'ipod', out],
      ],
      { signal, timeoutSeconds: 3600 },
    ),
  )
  return out
}

export async function* epubFiles(context: AppContext, edition: PackedEdition, signal: AbortSignal): AsyncGenerator<ZippedFile> {
  const { db, store } = context
  const { manifest } = edition
  const stored = async (name: string) => ({ store, name: (await editionFile(db.read, edition.id, name)).file })
  const [track] = manifest.captions
  const language = track?.language ?? manifest.language
  const cues = track
    ? parseWebVtt(Buffer.from(await store.read((await stored(track.file)).name)).toString('utf8')).cues.map((cue) => ({
        start: cue.start,
        text: plainCueText(cue.text),
      }))
    : []
  const ends = manifest.chapters.map((one) => toSeconds(one.startSamples + one.lengthSamples))
  const pages = transcriptOf({ ...manifest, language }, cues).map((part, i) => pageOf(part, i, manifest.chapters[i]!, ends[i]!))
  const { title } = manifest
  const book: Book = {
    id: edition.id,
    title,
    author: manifest.author ?? '',
    language,
    modified: new Date(edition.createdAt),
    seconds: toSeconds(manifest.lengthSamples),
  }
  yield { path: 'mimetype', content: Buffer.from('application/epub+zip'), isPlain: true }
  yield { path: 'META-INF/container.xml', content: CONTAINER }
  yield { path: 'EPUB/package.opf', content: packageDocument(book, pages) }
  yield { path: 'EPUB/nav.xhtml', content: navigation(language, title, pages) }
  yield { path: 'EPUB/style.css', content: STYLE }
  for (const page of pages) {
    yield { path: `EPUB/${page.name}.xhtml`, content: pageText(language, page) }
    yield { path: `EPUB/${page.name}.smil`, content: overlay(page) }
  }
  for (const picture of new Set(pages.map((page) => page.picture)))
    yield { path: `EPUB/images/${picture}`, content: await stored(picture) }
  const sound = await soundOf(context, edition, signal)
  try {
    yield { path: `EPUB/${AUDIO}`, content: { file: sound } }
  } finally {
    await rm(sound, { force: true })
  }
}
