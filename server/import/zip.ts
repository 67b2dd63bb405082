/** Zip files from strangers: judged by one reading of their list of contents, then unpacked from the disk entry by entry. */

import type { Readable } from 'node:stream'
import { crc32 } from 'node:zlib'
import yauzl, { type Entry, type ZipFile } from 'yauzl'
import { type Message, message } from '#core/words/say.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'

const MOST_ENTRIES = 20_000
const MOST_UNPACKED = 1.5 * 1024 ** 3
/** Text shrinks twentyfold; what shrinks far more was made to burst. */
const MOST_RATIO = 400
const RATIO_FROM_BYTES = 5 * 1024 ** 2
/** What is held in memory at once. */
const MOST_READ = 100 * 1024 ** 2

const STORED = 0
const DEFLATED = 8

export interface OpenZip {
  /** Bytes of every file when unpacked, by its name in the zip. */
  readonly sizes: ReadonlyMap<string, number>
  /** @throws UserFacingError when it is damaged, or larger than may be held in memory */
  read(name: string, most?: number): Promise<Uint8Array>
  /** Its bytes as they are unpacked; the stream fails when it is damaged or becomes longer than the list of contents says. */
  stream(name: string): Promise<Readable>
  close(): void
}

const leadsElsewhere = (name: string) =>
  /(^|[\\/])\.\.([\\/]|$)/.test(name) || /^([\\/]|[A-Za-z]:)/.test(name) || name.includes('\0')

/** Entries in the order of the list. One reading serves for the checks and for unpacking, so that they cannot differ. */
function entriesOf(zip: ZipFile): Promise<Entry[]> {
  return new Promise((resolve, reject) => {
    const entries: Entry[] = []
    zip.on('entry', (entry: Entry) => {
      entries.push(entry)
      zip.readEntry()
    })
    zip.on('end', () => resolve(entries))
    zip.on('error', reject)
    zip.readEntry()
  })
}

/** An entry's name as it stands in the file: a backslash is no slash. */
const nameOf = (entry: Entry) =>
  yauzl.getFileNameLowLevel(entry.generalPurposeBitFlag, entry.fileNameRaw, entry.extraFields, true)

const refuse = (said: Message): never => {
  throw new UserFacingError(said, 422)
}

/** What is wrong with one entry; null where it may be opened. */
function faultOf(entry: Entry, entryName: string, name: string): Message | null {
  if (entry.isEncrypted())
    return message('“{name}” is locked with a password. Save a copy without the password and add that.', { name })
  if (entry.compressionMethod !== STORED && entry.compressionMethod !== DEFLATED)
    return message('“{name}” is packed in a way that is not known here. Pack it again as an ordinary zip file.', { name })
  if (leadsElsewhere(entryName))
    return message('“{name}” holds a file that would land outside its folder. It was not opened.', { name })
  if (entry.uncompressedSize > RATIO_FROM_BYTES && entry.uncompressedSize > MOST_RATIO * Math.max(1, entry.compressedSize))
    return message('“{name}” would burst: “{entry}” unpacks to far more than it could hold. It was not opened.', {
      name,
      entry: entryName,
    })
  return null
}

/** Names are checked below, in our own words. */
const OPTIONS = { lazyEntries: true, autoClose: false, validateEntrySizes: true, decodeStrings: false }

/** The files of a zip by their names. @throws UserFacingError as `openZip` does */
function knownEntries(entries: readonly Entry[], name: string, mostUnpacked: number): Map<string, Entry> {
  const known = new Map<string, Entry>()
  let all = 0
  for (const entry of entries) {
    const entryName = nameOf(entry)
    const fault = faultOf(entry, entryName, name)
    if (fault) refuse(fault)
    if (known.has(entryName)) refuse(message('“{name}” holds “{entry}” twice. It was not opened.', { name, entry: entryName }))
    known.set(entryName, entry)
    all += entry.uncompressedSize
  }
  if (all > mostUnpacked)
    refuse(
      message('“{name}” unpacks to {size} MB; the most is {most} MB. Divide it.', {
        name,
        size: Math.ceil(all / 1e6),
        most: Math.floor(mostUnpacked / 1e6),
      }),
    )
  for (const folder of [...known.keys()].filter((entry) => entry.endsWith('/'))) known.delete(folder)
  return known
}

/**
 * @param path of the file
 * @param name as the person knows it, for sentences
 * @param mostUnpacked bytes of all entries together
 * @throws UserFacingError for too much, for names that lead elsewhere, for one name twice, for a password, for damage
 */
export async function openZip(path: string, name: string, mostUnpacked = MOST_UNPACKED): Promise<OpenZip> {
  const zip = await yauzl
    .openPromise(path, OPTIONS)
    .catch((error: Error) =>
      refuse(
        /end of central directory/i.test(error.message)
          ? message('“{name}” is cut short: the end of it is missing. Save or download it again.', { name })
          : message('“{name}” is damaged: its list of contents cannot be read. Save or download it again.', { name }),
      ),
    )
  try {
    if (zip.entryCount > MOST_ENTRIES)
      refuse(
        message('“{name}” holds {files} files; the most is {most}. Divide it.', {
          name,
          files: zip.entryCount,
          most: MOST_ENTRIES,
        }),
      )
    const entries = await entriesOf(zip).catch(() =>
      refuse(message('“{name}” is damaged: its list of contents cannot be read. Save or download it again.', { name })),
    )
    const known = knownEntries(entries, name, mostUnpacked)
    const damaged = () =>
      new UserFacingError(message('“{name}” is damaged and cannot be unpacked. Save or download it again.', { name }), 422)
    const stream = async (entry: string) => {
      const found = known.get(entry)
      if (!found) throw new RangeError(`No entry ${entry}`)
      return zip.openReadStreamPromise(found).catch(() => {
        throw damaged()
      })
    }
    return {
      sizes: new Map([...known].map(([entry, { uncompressedSize }]) => [entry, uncompressedSize])),
      stream,
      async read(entry, most = MOST_READ) {
        const size = known.get(entry)?.uncompressedSize ?? 0
        if (size > most)
          refuse(
            message('“{entry}” in “{name}” is {size} MB large; the most is {most} MB. Make it smaller.', {
              entry,
              name,
              size: Math.ceil(size / 1e6),
              most: Math.floor(most / 1e6),
            }),
          )
        const pieces: Buffer[] = []
        try {
          for await (const piece of await stream(entry)) pieces.push(piece as Buffer)
        } catch {
          throw damaged()
        }
        const bytes = new Uint8Array(Buffer.concat(pieces))
        if (crc32(bytes) !== known.get(entry)!.crc32) throw damaged()
        return bytes
      },
      close: () => zip.close(),
    }
  } catch (error) {
    zip.close()
    throw error
  }
}
