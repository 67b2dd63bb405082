/** Which kind of drawing orders a file has. */

/** What stands before an older one to tell how large it is. */
const PLACEABLE = 0x9ac6cdd7
/** [MS-EMF], §2.3.4.2: the signature of a header, " EMF". */
const SIGNATURE = 0x464d4520
const SHORTEST_HEADER = 88

/** @returns null for none */
export function metafileKind(bytes: Uint8Array): 'emf' | 'wmf' | null {
  if (bytes.length < 44) return null
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length)
  if (view.getUint32(0, true) === PLACEABLE) return 'wmf'
  const isEmf = view.getUint32(0, true) === 1 && view.getUint32(40, true) === SIGNATURE
  return isEmf && bytes.length >= SHORTEST_HEADER ? 'emf' : null
}
