/** Zip files from strangers: looked at by their list of contents before anything is inflated. */
import { strFromU8, unzipSync } from 'fflate'
import { DeckProblem } from './problem.ts'

const MOST_ENTRIES = 20_000
const MOST_INFLATED = 1.5 * 1024 ** 3
/** Text shrinks twentyfold; what shrinks far more was made to burst. */
const MOST_RATIO = 400
const RATIO_FROM_BYTES = 5 * 1024 ** 2

const END_OF_LIST = 0x06054b50
const ENTRY = 0x02014b50
const ENCRYPTED = 1
const STORED = 0
const DEFLATED = 8

export interface ZipEntry {
  name: string
  bytes: number
}

/** @see APPNOTE.TXT of the ZIP format, §4.3.12 (central directory) and §4.3.16 (end of central directory) */
function listOf(zip: Uint8Array, name: string) {
  const view = new DataView(zip.buffer, zip.byteOffset, zip.byteLength)
  let end = zip.length - 22
  while (end >= 0 && end > zip.length - 66_000 && view.getUint32(end, true) !== END_OF_LIST) end--
  if (end < 0 || view.getUint32(end, true) !== END_OF_LIST)
    throw new DeckProblem(`“${name}” is cut short: the end of it is missing. Save or download it again.`)
  const count = view.getUint16(end + 10, true)
  let at = view.getUint32(end + 16, true)
  const entries: { name: string; flags: number; method: number; packed: number; bytes: number }[] = []
  for (let i = 0; i < count; i++) {
    if (at + 46 > zip.length || view.getUint32(at, true) !== ENTRY)
      throw new DeckProblem(`“${name}” is damaged: its list of contents cannot be read. Save or download it again.`)
    const nameLength = view.getUint16(at + 28, true)
    const bytes = zip.subarray(at + 46, at + 46 + nameLength)
    entries.push({
      name: strFromU8(bytes),
      flags: view.getUint16(at + 8, true),
      method: view.getUint16(at + 10, true),
      packed: view.getUint32(at + 20, true),
      bytes: view.getUint32(at + 24, true),
    })
    at += 46 + nameLength + view.getUint16(at + 30, true) + view.getUint16(at + 32, true)
  }
  return entries
}

/**
 * @param zip the whole file
 * @param name as the person knows it, for sentences
 * @param wanted which entries are inflated
 * @returns entries by name; folders are left out
 * @throws DeckProblem for too much, for names that lead elsewhere, for one name twice, for a password, for damage
 */
export function readZip(
  zip: Uint8Array,
  name: string,
  wanted: (entry: ZipEntry) => boolean = () => true,
): Map<string, Uint8Array> {
  const entries = listOf(zip, name)
  if (entries.length > MOST_ENTRIES)
    throw new DeckProblem(`“${name}” holds ${entries.length} files; the most is ${MOST_ENTRIES}. Divide it.`)
  const known = new Set<string>()
  let all = 0
  for (const entry of entries) {
    if (entry.flags & ENCRYPTED)
      throw new DeckProblem(`“${name}” is locked with a password. Save a copy without the password and add that.`)
    if (entry.method !== STORED && entry.method !== DEFLATED)
      throw new DeckProblem(`“${name}” is packed in a way that is not known here. Pack it again as an ordinary zip file.`)
    if (/(^|[\\/])\.\.([\\/]|$)/.test(entry.name) || /^([\\/]|[A-Za-z]:)/.test(entry.name) || entry.name.includes('\0'))
      throw new DeckProblem(`“${name}” holds a file that would land outside its folder. It was not opened.`)
    if (known.has(entry.name)) throw new DeckProblem(`“${name}” holds “${entry.name}” twice. It was not opened.`)
    known.add(entry.name)
    all += entry.bytes
    if (entry.bytes > RATIO_FROM_BYTES && entry.bytes > MOST_RATIO * Math.max(1, entry.packed))
      throw new DeckProblem(`“${name}” would burst: “${entry.name}” unpacks to far more than it could hold. It was not opened.`)
  }
  if (all > MOST_INFLATED)
    throw new DeckProblem(
      `“${name}” unpacks to ${Math.ceil(all / 1e6)} MB; the most is ${Math.floor(MOST_INFLATED / 1e6)} MB. Divide it.`,
    )
  let files: Record<string, Uint8Array>
  try {
    files = unzipSync(zip, {
      filter: (file) => !file.name.endsWith('/') && wanted({ name: file.name, bytes: file.originalSize }),
    })
  } catch {
    throw new DeckProblem(`“${name}” is damaged and cannot be unpacked. Save or download it again.`)
  }
  return new Map(Object.entries(files))
}
