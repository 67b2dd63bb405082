/** Makes a lecture from a deck, with its PDF and its sounds, or from pictures. Nothing of it is seen before all of it is there. */

import { createHash } from 'node:crypto'
import { parse } from 'node:path'
import { MOST_SLIDES } from '#core/deck/deck.ts'
import { matchSounds, numbersOfPictures } from '#core/deck/match-sounds.ts'
import { DeckProblem } from '#core/deck/problem.ts'
import type { GivenFile, RowsSoFar } from '#core/jobs/job.ts'
import { lectureLanguage } from '#core/script/detect-language.ts'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { readBundle } from '#server/domain/lectures/bring-bundle.ts'
import { changeLecture, createLecture, slidesOfLecture } from '#server/domain/lectures/edit.ts'
import { chosenLanguage } from '#server/domain/lectures/import-language.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { kindOfZip } from '#server/import/read-deck.ts'
import { type FileKind, isPicture, sniffFile } from '#server/import/sniff.ts'
import type { ImportedPage, PageDone, PdfPages } from '#server/import/tasks.ts'
import type { JobDefinition, Report } from '#server/queue/queue.ts'

const MOST_PICTURES = MOST_SLIDES

/** "02_intro slide.png" is called "intro slide". */
/**
 * Whether the title that a file says it has is that of its deck: many say what their program says of every new file, or what another deck was
 * called, of which this one is a copy. Common practice, no published source: a deck's first slide says what it is called.
 */
function isOfDeck(told: string, first: { title: string; altText: string } | undefined): boolean {
  const plain = (text: string) =>
    text
      .toLowerCase()
      .replace(/[^\p{L}\p{N}]+/gu, ' ')
      .trim()
  const [title, shown] = [plain(told), plain(`${first?.title ?? ''} ${first?.altText ?? ''}`)]
  const heading = plain(first?.title ?? '')
  return title !== '' && (shown === '' || shown.includes(title) || (heading !== '' && title.includes(heading)))
}

export function titleFromName(name: string): string {
  const bare = parse(name).name.replace(/[_]+/g, ' ').trim()
  return bare.replace(/^\d+[\s.\-–)]+/, '').trim() || bare
}

type Given = GivenFile & { kind: FileKind }

/** What the files are for, by what is in them. */
interface Sorted {
  /** A presentation file or a deck written as text. */
  deck: Given | null
  pdf: Given | null
  pictures: GivenFile[]
  sounds: Given[]
  /** A whole lecture, exported before. */
  bundle: Given | null
  /** Names of what no use was found for. */
  unused: string[]
}

const order = new Intl.Collator('en', { numeric: true, sensitivity: 'base' })
const isWritten = (f: Given) => f.kind === 'text' && /\.(md|markdown|txt)$/i.test(f.name)

/** @throws UserFacingError, DeckProblem for files that make no lecture together */
export async function sortFiles(sent: readonly GivenFile[], context: AppContext, signal: AbortSignal): Promise<Sorted> {
  const { store, workers, config } = context
  const given: Given[] = []
  for (const f of sent) {
    if ((await store.size(f.file)) === 0)
      throw new UserFacingError(
        message('“{name}” is empty (0 bytes). Save or download it again and add it once more.', { name: f.name }),
        422,
      )
    given.push({ ...f, kind: await store.withLocalFile(f.file, sniffFile) })
  }
  const found: Sorted = { deck: null, pdf: null, pictures: [], sounds: [], bundle: null, unused: [] }
  const decks: Given[] = []
  const pdfs: Given[] = []
  for (const f of given) {
    const zip = f.kind === 'zip' ? await store.withLocalFile(f.file, (path) => kindOfZip(path, f.name)) : null
    if (zip === 'bundle') found.bundle = f
    else if (f.kind === 'pdf') pdfs.push(f)
    else if (zip === 'deck' || isWritten(f)) decks.push(f)
    else if (zip === 'pictures') {
      const input = { name: f.name, file: f.file, dataFolder: config.dataFolder }
      const { pictures, others } = await workers.importer.run('unpack', input, { name: f.name, signal })
      found.pictures.push(...pictures)
      found.unused.push(...others)
    } else if (isPicture(f.kind)) found.pictures.push(f)
    else if (f.kind === 'sound') found.sounds.push(f)
    else
      throw new UserFacingError(
        message(
          '“{name}” is neither a deck (PDF, PPTX, ODP, Markdown) nor a picture nor a sound, whatever its name says. Export the deck as a PDF and add that.',
          { name: f.name },
        ),
        415,
      )
  }
  if (found.bundle) {
    if (given.length > 1)
      throw new UserFacingError(message('A bundle is a whole lecture. Add the other files on their own.'), 422)
    return found
  }
  if (decks.length > 1 || pdfs.length > 1)
    throw new UserFacingError(message('A lecture begins with one deck. Add the other files as lectures of their own.'), 422)
  const written = decks.length === 1 && decks[0]!.kind === 'text' && pdfs.length === 0
  // a text names the pictures it shows
  if ((decks.length > 0 || pdfs.length > 0) && found.pictures.length > 0 && !written)
    throw new UserFacingError(
      message('A lecture begins with one deck, or with pictures. Add the pictures as a lecture of their own.'),
      422,
    )
  if (decks.length + pdfs.length + found.pictures.length === 0)
    throw new UserFacingError(
      message('These are sounds alone. Add the deck they belong to as well, or drop them on a lecture.'),
      422,
    )
  return { ...found, deck: decks[0] ?? null, pdf: pdfs[0] ?? null }
}

/** As many rows as a window shows: of the rest it is enough to know how many there are. */
const MOST_ROWS = 12

const NONE = { page: 0, pages: 0 }
const READING = {
  picture: message('Picture {page} of {pages}', NONE),
  page: message('Page {page} of {pages}', NONE),
  slide: message('Slide {page} of {pages}', NONE),
}

/** Tells each page as it is done, with the first of them to look at. */
function pageTeller(report: Report<RowsSoFar>, what: keyof typeof READING, from: number, share: number) {
  const rows: RowsSoFar['rows'] = []
  return ({ page, pages, title, thumbnail }: PageDone) => {
    if (rows.length < MOST_ROWS) rows.push({ title, thumbnail })
    report(from + (share * page) / (pages + 1), { ...READING[what], values: { page, pages } }, { rows: [...rows] })
  }
}

/** Pictures in the natural order of their names, as slides have it. */
const inOrder = (pictures: readonly GivenFile[]) => pictures.toSorted((a, b) => order.compare(a.name, b.name))

async function picturePages(pictures: Sorted['pictures'], context: AppContext, report: Report<RowsSoFar>, signal: AbortSignal) {
  if (pictures.length > MOST_PICTURES)
    throw new UserFacingError(
      message('These are {pictures} pictures; the most is {most}. Divide them into two lectures.', {
        pictures: pictures.length,
        most: MOST_PICTURES,
      }),
      413,
    )
  const given = inOrder(pictures)
  const tell = pageTeller(report, 'picture', 0, 1)
  const kept = await context.workers.importer.run(
    'pictures',
    { given, dataFolder: context.config.dataFolder },
    { name: given.length === 1 ? given[0]!.name : 'the pictures', tell, signal },
  )
  return kept.map((picture, i): ImportedPage => ({ ...picture, title: titleFromName(given[i]!.name), altText: '' }))
}

/** Pages of a deck, or of pictures, as slides. */
export async function pagesOf(
  { deck, pdf, pictures }: Sorted,
  context: AppContext,
  report: Report<RowsSoFar>,
  signal: AbortSignal,
): Promise<PdfPages & { title: string }> {
  const { workers, config } = context
  if (!deck && !pdf) return { title: '', language: null, pages: await picturePages(pictures, context, report, signal) }
  const share = deck && pdf ? 0.5 : 1
  const { dataFolder } = config
  const fromPdf = pdf
    ? await workers.importer.run(
        'pdf',
        { name: pdf.name, file: pdf.file, dataFolder },
        { name: pdf.name, tell: pageTeller(report, 'page', 0, share), signal },
      )
    : { language: null, pages: [] }
  if (!deck) return { title: '', ...fromPdf }
  const read = await workers.importer.run(
    'deck',
    { name: deck.name, file: deck.file, dataFolder, pages: fromPdf.pages, pictures },
    { name: deck.name, tell: pageTeller(report, 'slide', 1 - share, share), signal },
  )
  return { ...read, language: read.language ?? fromPdf.language }
}

/** The language that pages are in: what their deck says, else how they read. */
async function languageOfPages(
  { workers }: AppContext,
  { language: told, pages }: PdfPages,
  usual: string,
  signal: AbortSignal,
): Promise<string> {
  const text = pages.map((page) => [page.title, page.script, page.altText].filter(Boolean).join('\n')).join('\n')
  // to know a language takes a fifth of a second, in which the server would answer nobody
  return lectureLanguage(told, await workers.importer.run('language', { text }, { name: 'the text', signal }), usual)
}

/** An id that is the same when the job is taken up again after a restart, so that nothing is made twice. */
function takeId(lectureId: string, slide: number, name: string): string {
  const hex = createHash('sha256').update(`${lectureId} ${slide} ${name}`).digest('hex')
  return `${hex.slice(0, 8)}-${hex.slice(8, 12)}-4${hex.slice(13, 16)}-8${hex.slice(17, 20)}-${hex.slice(20, 32)}`
}

export const importDeck: JobDefinition<'import'>['run'] = async (input, context, report, signal) => {
  try {
    const { lectureId } = input
    const files = await sortFiles(input.files, context, signal)
    if (files.bundle) {
      const known = await slidesOfLecture(context.db.read, lectureId)
      const { name, file } = files.bundle
      if (!known)
        await context.store.withLocalFile(file, (path) =>
          readBundle(
            context,
            (...job) => context.queue.add(...job),
            lectureId,
            { name, path },
            (part) => report(part, message('Bringing it in')),
            signal,
          ),
        )
      context.events.tell({ type: 'lecture', lectureId })
      return { lectureId, unmatched: [], sounds: [] }
    }
    const read = await pagesOf(files, context, report, signal)
    const { pages } = read
    const told = isOfDeck(read.title, pages[0]) ? read.title : ''
    signal.throwIfAborted()
    const language =
      (await chosenLanguage(context.db.read, lectureId)) ?? (await languageOfPages(context, read, input.language, signal))
    const named = files.deck ?? files.pdf ?? input.files[0]!
    const title = told || (files.deck || files.pdf || input.files.length === 1 ? titleFromName(named.name) : pages[0]!.title)
    const slideIds =
      (await slidesOfLecture(context.db.read, lectureId)) ??
      (await createLecture(context.db, lectureId, title || 'A lecture without a title', language, pages))
    // until now it could be chosen: whoever did in this very moment is heard as well
    const late = await chosenLanguage(context.db.read, lectureId)
    if (late && late !== language) await changeLecture(context.db, lectureId, { language: late })
    const sounds = pages.flatMap((page, i) => (page.sound ? [{ ...page.sound, slide: i }] : []))
    const matches = matchSounds(
      files.sounds.map((f) => f.name),
      pages.map((page) => page.title),
      { numbers: files.deck || files.pdf ? null : numbersOfPictures(inOrder(files.pictures).map((picture) => picture.name)) },
    )
    for (const { file, slide } of matches)
      if (slide !== null) sounds.push({ name: files.sounds[file]!.name, file: files.sounds[file]!.file, slide })
    const coming: string[] = []
    for (const { name, file, slide } of sounds) {
      const id = takeId(lectureId, slide, name)
      const job = await context.queue.add('import-sound', lectureId, { id, slideId: slideIds[slide]!, name, file })
      coming.push(job.id)
    }
    context.events.tell({ type: 'lecture', lectureId })
    const unmatched = [...files.unused, ...matches.filter((m) => m.slide === null).map((m) => files.sounds[m.file]!.name)]
    return { lectureId, unmatched, sounds: coming }
  } catch (error) {
    // what is wrong with a deck is said in a sentence by those who read it
    throw error instanceof DeckProblem ? new UserFacingError(error.said, 422) : error
  }
}
