/** What runs in the import process: reading what strangers made, with nothing at hand but the folder of files. */

import type { Bundle } from '#core/bundle/bundle.ts'
import type { DeckStep, Drawing } from '#core/deck/deck.ts'
import { buildsOn, type SmallPicture } from '#core/deck/match/builds.ts'
import { offeredPages, pairPages, readsOtherwise } from '#core/deck/match/pair.ts'
import type { NewDeckFilm } from '#core/deck/match/replace.ts'
import { pageAltText, pageTitle } from '#core/deck/title.ts'
import { outlastsPicture, WARN, Warnings } from '#core/deck/warnings.ts'
import type { GivenFile } from '#core/jobs/job.ts'
import type { Transition } from '#core/model/transition.ts'
import { languageOfText } from '#core/script/detect-language.ts'
import { type Message, message } from '#core/words/say.ts'
import { type FileStore, folderStore } from '#server/storage/file-store.ts'
import { hanStyleOf } from '#server/text/fonts.ts'
import { textOfDrawing, undrawableProblem } from '#server/text/undrawable.ts'
import { readDescription } from './bundle-description.ts'
import { cutCrest } from './crest.ts'
import { readAnimation } from './films/animation.ts'
import { filmsOf } from './films/deck-films.ts'
import { paintDrawing, picturesOf } from './paint-deck.ts'
import { openPdf, type Pdf } from './pdf.ts'
import { type KeptPicture, keepGivenPicture, keepPicture, smallPicture } from './picture.ts'
import { picturesOfZip, type ReadDeck, readDeckFile } from './read-deck.ts'

export interface PageDone {
  page: number
  pages: number
  title: string
  thumbnail: string
}
export type TellPage = (done: PageDone) => void

export type ImportedPage = KeptPicture & {
  title: string
  altText: string
  isAltTextDraft?: boolean
  script?: string
  hidden?: boolean
  /** How long the deck shows it; null when it waits. */
  holdSeconds?: number | null
  /** A sound that came with it. */
  sound?: GivenFile | null
  warnings?: Message[]
  /** Other pictures that may be those of this slide. */
  offered?: KeptPicture[]
  /** It shows all of the page before and something more. */
  buildsOn?: boolean
  /** Heading of the section that begins with it; '' where none does. */
  section?: string
  /** What its clicks bring, in order. */
  steps?: ImportedStep[]
  /** How it takes over from the slide before; null where the deck says nothing. */
  transition?: Transition | null
  /** What moves on its first picture. */
  films?: NewDeckFilm[]
}

/** A further picture of a slide. */
export type ImportedStep = KeptPicture & {
  /** Words that are new on it. */
  text: string
  /** Seconds after the one before, where it comes by itself; null where it waits. */
  afterSeconds: number | null
  films?: NewDeckFilm[]
}

const pictureOnly = ({ picture, thumbnail, width, height }: KeptPicture): KeptPicture => ({ picture, thumbnail, width, height })

/** Pages, and what their file says of its language (BCP 47). */
export interface PdfPages {
  language: string | null
  /** What its file says it is called; '' where it says nothing. */
  title: string
  pages: ImportedPage[]
}

/** An outline of two headings or more divides a deck, unless it names nearly every page. */
function sectionsOf({ outline, pages }: Pdf): ReadonlyMap<number, string> {
  return outline.size < 2 || outline.size > pages / 2 ? new Map() : outline
}

async function pdfPages(store: FileStore, name: string, path: string, tell: TellPage): Promise<PdfPages> {
  const document = await openPdf(name, path)
  try {
    const pages: ImportedPage[] = []
    const sections = sectionsOf(document)
    let before: SmallPicture | null = null
    for (let i = 0; i < document.pages; i++) {
      const { text, notes, label, ...drawn } = document.page(i)
      const small = await smallPicture(drawn)
      const buildsUp = before !== null && buildsOn(before, small)
      before = small
      const said = {
        title: pageTitle(text) || (label && `Page ${label}`),
        altText: pageAltText(text),
        isAltTextDraft: pageAltText(text) !== '',
        script: notes,
        buildsOn: buildsUp,
        section: sections.get(i) ?? '',
      }
      const page = { ...(await keepPicture(store, drawn)), ...said }
      pages.push(page)
      tell({ page: i + 1, pages: document.pages, title: page.title, thumbnail: page.thumbnail })
    }
    return { language: document.language, title: document.title, pages }
  } finally {
    document.close()
  }
}

/** Pages of a PDF. */
function pdf({ name, file, dataFolder }: GivenFile & { dataFolder: string }, tell: TellPage): Promise<PdfPages> {
  const store = folderStore(dataFolder)
  return store.withLocalFile(file, (path) => pdfPages(store, name, path, tell))
}

/** The pictures of a zip file, each in the store, and what was in it beside them. */
async function unpack(
  { name, file, dataFolder }: GivenFile & { dataFolder: string },
  tell: (name: string) => void,
): Promise<{ pictures: GivenFile[]; others: string[] }> {
  const store = folderStore(dataFolder)
  const found = { pictures: [] as GivenFile[], others: [] as string[] }
  await store.withLocalFile(file, async (path) => {
    for await (const entry of picturesOfZip(path, name)) {
      if (entry.bytes) found.pictures.push({ name: entry.name, file: await store.put(entry.bytes) })
      else found.others.push(entry.name)
      tell(entry.name)
    }
  })
  return found
}

export interface DeckInput extends GivenFile {
  dataFolder: string
  /** Pages of the PDF of the same deck: their pictures are taken where they pair. */
  pages: ImportedPage[]
  /** Pictures that came with a deck written as text. */
  pictures: GivenFile[]
}

/** What is told of a picture of a deck that could not be read. */
function whyMissing(part: string): Message {
  // what an OpenDocument file keeps of an object, for programs that cannot draw it
  if (part.startsWith('ObjectReplacements/')) return WARN.chartOrObject
  const [, drawing] = /\.(emf|wmf)$/i.exec(part) ?? []
  if (drawing) return WARN.drawing(drawing.toUpperCase())
  return WARN.unreadablePicture(/\.(\w{1,5})$/.exec(part)?.[1]?.toUpperCase() ?? part.split('/').at(-1)!)
}

/** One after the other: each picture takes memory while it is drawn. */
async function inTurn<T, R>(list: readonly T[], make: (one: T) => Promise<R>): Promise<R[]> {
  const made: R[] = []
  for (const one of list) made.push(await make(one))
  return made
}

async function deckSlides(store: FileStore, read: ReadDeck, pages: readonly ImportedPage[], tell: TellPage): Promise<PdfPages> {
  try {
    const pairs = pages.length > 0 ? pairPages(read.slides, pages) : read.slides.map(() => null)
    const offers = pages.length > 0 ? offeredPages(read.slides, pages, pairs) : []
    const pictureOf = picturesOf(read.part)
    const films = filmsOf(store, read)
    // signs of Han are written one way throughout a deck
    const han = hanStyleOf(read.slides.map((slide) => textOfDrawing(slide.drawing)).join(' '))
    const made: ImportedPage[] = []
    for (const [i, slide] of read.slides.entries()) {
      const page = pairs[i] == null ? null : pages[pairs[i]!]!
      const unread = new Warnings()
      const paint = async (drawing: Drawing) => {
        const { missing, partial, ...painted } = await paintDrawing(drawing, pictureOf, han)
        for (const part of missing) unread.add(whyMissing(part))
        for (const part of partial) unread.add(WARN.drawnInPart(part.split('.').at(-1)!.toUpperCase()))
        return pictureOnly(await keepPicture(store, painted))
      }
      const draw = () => paint(slide.drawing)
      const drawn = page ?? (await draw())
      const reads = page !== null && readsOtherwise(slide, page)
      const offered = (offers[i] ?? []).map((offer) => pages[offer]!)
      const added = page !== null && offered.length > 0
      const sound = slide.sound ? await read.part(slide.sound) : null
      const moving = new Set<string>()
      const filmsOn = async ({ drawing, films: own }: Pick<DeckStep, 'drawing' | 'films'>) => [
        ...(await films.ofDeck(own, drawing)),
        ...(await films.moving(drawing, moving, unread)),
      ]
      // the page of a PDF shows all steps at once: so do its films begin
      const first = await filmsOn(slide)
      const steps = await inTurn(slide.steps, async (step) => ({ step, films: await filmsOn(step) }))
      const undrawable = page ? null : undrawableProblem(textOfDrawing(slide.drawing))
      const unpaired = pages.length > 0 && !page && !slide.hidden
      made.push({
        picture: drawn.picture,
        thumbnail: drawn.thumbnail,
        width: drawn.width,
        height: drawn.height,
        title: slide.title,
        altText: slide.altText,
        isAltTextDraft: slide.isAltTextDraft,
        // what was noted on the page counts where the deck says nothing
        script: slide.notes || (page?.script ?? ''),
        hidden: slide.hidden,
        section: slide.section,
        buildsOn: page?.buildsOn ?? false,
        // the page of a PDF shows all of them at once
        steps: page
          ? []
          : await inTurn(steps, async ({ step: { drawing, text, afterSeconds }, films: own }) => ({
              ...(await paint(drawing)),
              text,
              afterSeconds,
              films: own,
            })),
        films: page ? [...first, ...steps.flatMap((step) => step.films)] : first,
        transition: slide.transition,
        offered: [...(reads ? [await draw()] : []), ...offered].map(pictureOnly),
        holdSeconds: slide.advanceMs === null || sound ? null : Math.min(600, Math.max(0.5, slide.advanceMs / 1000)),
        sound: sound ? { name: slide.sound!.split('/').at(-1)!, file: await store.put(sound) } : null,
        warnings: [
          ...(undrawable ? [undrawable] : []),
          ...(unpaired ? [message('The PDF has no page like this slide, so it is drawn from the presentation file.')] : []),
          ...(reads ? [message('Its page of the PDF reads otherwise than the slide in the presentation file.')] : []),
          ...(page && slide.steps.length > 0 ? [WARN.stepsAsOne(slide.steps.length)] : []),
          ...(added ? [message('The PDF has more pages here than the presentation file has slides.')] : []),
          // the page of the PDF shows what could not be drawn
          ...slide.warnings.filter((finding) => !page || outlastsPicture(finding) || finding.id === WARN.animations(1).id),
          ...(page ? [] : unread.list()),
        ],
      })
      tell({ page: i + 1, pages: read.slides.length, title: slide.title, thumbnail: drawn.thumbnail })
    }
    return { title: read.title, language: read.language, pages: made }
  } finally {
    read.close()
  }
}

/** Slides of a presentation file, each drawn or with the page of its PDF. */
function deck({ name, file, dataFolder, pages, pictures }: DeckInput, tell: TellPage) {
  const store = folderStore(dataFolder)
  const readers = new Map(pictures.map((p) => [p.name, () => store.read(p.file)]))
  return store.withLocalFile(file, async (path) => deckSlides(store, await readDeckFile(path, name, readers), pages, tell))
}

/** Pictures that somebody gave, as pictures of slides, in their order. */
async function pictures(
  { given, dataFolder }: { given: GivenFile[]; dataFolder: string },
  tell: (done: PageDone) => void,
): Promise<KeptPicture[]> {
  const store = folderStore(dataFolder)
  const kept: KeptPicture[] = []
  for (const { name, file } of given) {
    kept.push(await keepGivenPicture(store, name, await store.read(file)))
    tell({ page: kept.length, pages: given.length, title: name, thumbnail: kept.at(-1)!.thumbnail })
  }
  return kept
}

/** A small picture for a corner. @returns its content name */
async function crest({ name, file, dataFolder }: GivenFile & { dataFolder: string }, _tell: () => void): Promise<string> {
  const store = folderStore(dataFolder)
  return store.put(await cutCrest(name, await store.read(file)))
}

/** The pictures of an animation, one after the other in a file. */
async function animation({ name, file, dataFolder }: GivenFile & { dataFolder: string }, tell: (done: null) => void) {
  const store = folderStore(dataFolder)
  return store.withLocalFile(file, (path) => readAnimation(path, name, store.scratchPath('.rgb'), () => tell(null)))
}

/** What a bundle of a lecture says. */
const bundle = ({ path, name }: { path: string; name: string }, _tell: () => void): Promise<Bundle> => readDescription(path, name)

/** In which language a text is written; null where nothing can be said. */
const language = ({ text }: { text: string }, _tell: () => void): Promise<string | null> => languageOfText(text)

export const tasks = { pdf, unpack, deck, pictures, crest, animation, bundle, language }
export type Tasks = typeof tasks
