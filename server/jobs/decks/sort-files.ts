/** What the files that make a lecture are for, by what is in them; their names count only where there is nothing in them to go by. */

import type { GivenFile } from '#core/jobs/job.ts'
import { type Message, message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { isEncryptedOffice } from '#server/import/kinds/encrypted-office.ts'
import { isLeftBySystems } from '#server/import/kinds/left-by-systems.ts'
import { noPicture } from '#server/import/kinds/no-picture.ts'
import { type FileKind, isForeignPicture, isPicture, sniffFile } from '#server/import/kinds/sniff.ts'
import { kindOfZip } from '#server/import/read-deck.ts'
import { hasMovingPicture } from '#server/media/films/probe-film.ts'
import { withFilesHere } from '#server/storage/file-store.ts'

type Given = GivenFile & { kind: FileKind }

/** What the files are for, by what is in them. */
export interface Sorted {
  /** A presentation file or a deck written as text. */
  deck: Given | null
  pdf: Given | null
  pictures: GivenFile[]
  sounds: Given[]
  /** With a moving picture. */
  films: Given[]
  /** A whole lecture, exported before. */
  bundle: Given | null
  /** Names of what no use was found for. */
  unused: string[]
}

/** Texts that stand beside things and are not what is shown. Common practice, no published source. */
const ASIDE = /^(readme|liesmich|lisez-?moi|leeme|l[eé]ame|licen[cs]e|copying|notice|authors|changelog)\b/i

const isWritten = (f: Given) => f.kind === 'text' && /\.(md|markdown|txt)$/i.test(f.name)

/** Why a file can be nothing of a lecture. */
async function whyNot({ name, file, kind }: Given, { store }: AppContext): Promise<Message> {
  if (isForeignPicture(kind)) return noPicture(name, kind)
  if (kind === 'office')
    return (await store.withLocalFile(file, isEncryptedOffice))
      ? message('“{name}” is locked with a password. Open it, save it without one, and add that; or add its PDF.', { name })
      : message('“{name}” is an office file of the old kind (PPT, DOC, XLS). Open it, save it as PPTX or PDF, and add that.', {
          name,
        })
  return message(
    '“{name}” is neither a deck (PDF, PPTX, ODP, Markdown) nor a picture nor a sound, whatever its name says. Export the deck as a PDF and add that.',
    { name },
  )
}

/** @throws UserFacingError, DeckProblem for files that make no lecture together */
export async function sortFiles(sent: readonly GivenFile[], context: AppContext, signal: AbortSignal): Promise<Sorted> {
  const { store, workers, config } = context
  const given: Given[] = []
  const found: Sorted = { deck: null, pdf: null, pictures: [], sounds: [], films: [], bundle: null, unused: [] }
  for (const f of sent) {
    if (sent.length > 1 && isLeftBySystems(f.name)) {
      found.unused.push(f.name)
      continue
    }
    if ((await store.size(f.file)) === 0)
      throw new UserFacingError(
        message('“{name}” is empty (0 bytes). Save or download it again and add it once more.', { name: f.name }),
        422,
      )
    given.push({ ...f, kind: await store.withLocalFile(f.file, sniffFile) })
  }
  let decks: Given[] = []
  const pdfs: Given[] = []
  for (const f of given) {
    const zip = f.kind === 'zip' ? await store.withLocalFile(f.file, (path) => kindOfZip(path, f.name)) : null
    if (zip === 'bundle') found.bundle = f
    else if (f.kind === 'pdf') pdfs.push(f)
    else if (zip === 'deck' || isWritten(f)) decks.push(f)
    else if (zip === 'pictures') {
      const input = { name: f.name, file: f.file, dataFolder: config.dataFolder }
      const { pictures, others } = await withFilesHere(store, [f.file], () =>
        workers.importer.run('unpack', input, { name: f.name, signal }),
      )
      found.pictures.push(...pictures)
      found.unused.push(...others)
    } else if (isPicture(f.kind)) found.pictures.push(f)
    else if (f.kind === 'sound')
      ((await store.withLocalFile(f.file, (path) => hasMovingPicture(context.media, path, signal)))
        ? found.films
        : found.sounds
      ).push(f)
    else throw new UserFacingError(await whyNot(f, context), 415)
  }
  const aside = decks.filter((f) => f.kind === 'text' && ASIDE.test(f.name))
  // where there is nothing else to show, it is what is shown
  if (decks.length - aside.length + pdfs.length + found.pictures.length > 0) {
    found.unused.push(...aside.map((f) => f.name))
    decks = decks.filter((f) => !aside.includes(f))
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
      found.films.length > 0
        ? message('These are films alone. Add the deck they belong to as well, or drop each on its slide.')
        : message('These are sounds alone. Add the deck they belong to as well, or drop them on a lecture.'),
      422,
    )
  return { ...found, deck: decks[0] ?? null, pdf: pdfs[0] ?? null }
}
