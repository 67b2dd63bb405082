/** Makes a lecture from a deck, with its PDF and its sounds, or from pictures. Nothing of it is seen before all of it is there. */

import { createHash } from 'node:crypto'
import { parse } from 'node:path'
import { MOST_SLIDES } from '#core/deck/deck.ts'
import { matchSounds, numbersOfPictures } from '#core/deck/match/match-sounds.ts'
import { DeckProblem } from '#core/deck/problem.ts'
import type { GivenFile, RowsSoFar } from '#core/jobs/job.ts'
import { lectureLanguage } from '#core/script/detect-language.ts'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { readBundle } from '#server/domain/lectures/bring-bundle.ts'
import { createLecture, slidesOfLecture, stepsOfSlide } from '#server/domain/lectures/create.ts'
import { changeLecture } from '#server/domain/lectures/edit.ts'
import { addFilm, unreadyFilms } from '#server/domain/lectures/films.ts'
import { chosenLanguage } from '#server/domain/lectures/import-language.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import type { ImportedPage, PageDone, PdfPages } from '#server/import/tasks.ts'
import type { JobDefinition, Report } from '#server/queue/queue.ts'
import { withFilesHere } from '#server/storage/file-store.ts'
import { type Sorted, sortFiles } from './sort-files.ts'

const MOST_PICTURES = MOST_SLIDES

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

/** "02_intro slide.png" is called "intro slide". */
export function titleFromName(name: string): string {
  const bare = parse(name).name.replace(/[_]+/g, ' ').trim()
  return bare.replace(/^\d+[\s.\-–)]+/, '').trim() || bare
}

const order = new Intl.Collator('en', { numeric: true, sensitivity: 'base' })

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
  const { store, workers, config } = context
  const name = given.length === 1 ? given[0]!.name : 'the pictures'
  const kept = await withFilesHere(store, filesOf(given), () =>
    workers.importer.run('pictures', { given, dataFolder: config.dataFolder }, { name, tell, signal }),
  )
  return kept.map((picture, i): ImportedPage => ({ ...picture, title: titleFromName(given[i]!.name), altText: '' }))
}

const filesOf = (given: readonly GivenFile[]) => given.map(({ file }) => file)

/** Pages of a deck, or of pictures, as slides. */
export async function pagesOf(
  { deck, pdf, pictures }: Sorted,
  context: AppContext,
  report: Report<RowsSoFar>,
  signal: AbortSignal,
): Promise<PdfPages> {
  const { workers, config, store } = context
  if (!deck && !pdf) return { title: '', language: null, pages: await picturePages(pictures, context, report, signal) }
  const share = deck && pdf ? 0.5 : 1
  const { dataFolder } = config
  const fromPdf = pdf
    ? await withFilesHere(store, [pdf.file], () =>
        workers.importer.run(
          'pdf',
          { name: pdf.name, file: pdf.file, dataFolder },
          { name: pdf.name, tell: pageTeller(report, 'page', 0, share), signal },
        ),
      )
    : { language: null, title: '', pages: [] }
  if (!deck) return fromPdf
  const read = await withFilesHere(store, [deck.file, ...filesOf(pictures)], () =>
    workers.importer.run(
      'deck',
      { name: deck.name, file: deck.file, dataFolder, pages: fromPdf.pages, pictures },
      { name: deck.name, tell: pageTeller(report, 'slide', 1 - share, share), signal },
    ),
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
      return { lectureId, unmatched: [], films: [], sounds: [] }
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
    // until the lecture was there it could be chosen: whoever did while it was made is heard as well
    const late = await chosenLanguage(context.db.read, lectureId)
    if (late && late !== language) await changeLecture(context.db, lectureId, { language: late })
    const sounds = pages.flatMap((page, i) => (page.sound ? [{ ...page.sound, slide: i }] : []))
    const numbers = files.deck || files.pdf ? null : numbersOfPictures(inOrder(files.pictures).map((picture) => picture.name))
    const matched = (given: readonly GivenFile[]) =>
      matchSounds(
        given.map((f) => f.name),
        pages.map((page) => page.title),
        { numbers },
      )
    const matches = matched(files.sounds)
    const films = matched(files.films)
    for (const { file, slide } of films) {
      if (slide === null) continue
      const given = files.films[file]!
      const [first] = await stepsOfSlide(context.db.read, slideIds[slide]!)
      await addFilm(context.db, first!, takeId(lectureId, slide, given.name), given)
    }
    for (const { file, slide } of matches)
      if (slide !== null) sounds.push({ name: files.sounds[file]!.name, file: files.sounds[file]!.file, slide })
    const coming: string[] = []
    for (const { name, file, slide } of sounds) {
      const id = takeId(lectureId, slide, name)
      const job = await context.queue.add('import-sound', lectureId, { id, slideId: slideIds[slide]!, name, file })
      coming.push(job.id)
    }
    for (const filmId of await unreadyFilms(context.db.read, lectureId)) await context.queue.add('film', lectureId, { filmId })
    context.events.tell({ type: 'lecture', lectureId })
    const left = (found: typeof matches, given: readonly GivenFile[]) =>
      found.filter((m) => m.slide === null).map((m) => given[m.file]!.name)
    const unmatched = [...files.unused, ...left(matches, files.sounds), ...left(films, files.films)]
    const shown = films.filter((m) => m.slide !== null).map((m) => files.films[m.file]!.name)
    return { lectureId, unmatched, films: shown, sounds: coming }
  } catch (error) {
    // what is wrong with a deck is said in a sentence by those who read it
    throw error instanceof DeckProblem ? new UserFacingError(error.said, 422) : error
  }
}
