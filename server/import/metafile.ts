/** Files of drawing orders (EMF, WMF) as SVG, by a library that draws them into a document. @see [MS-EMF], [MS-WMF] */
import { createRequire } from 'node:module'
import { parseHTML } from 'linkedom'

interface Renderer {
  render(settings: {
    width: string
    height: string
    wExt?: number
    hExt?: number
    xExt: number
    yExt: number
    mapMode: number
  }): { outerHTML: string; querySelector(selector: string): unknown }
}
interface Library {
  Renderer: new (bytes: ArrayBuffer) => Renderer
  loggingEnabled?: (enabled: boolean) => void
}

const require = createRequire(import.meta.url)
let libraries: { emf: Library; wmf: Library } | null = null

/** The library asks for a document when it draws. */
function loaded() {
  if (libraries) return libraries
  Object.assign(globalThis, { document: parseHTML('<html><body></body></html>').document })
  libraries = {
    emf: require('rtf.js/dist/EMFJS.bundle.min.js') as Library,
    wmf: require('rtf.js/dist/WMFJS.bundle.min.js') as Library,
  }
  for (const library of Object.values(libraries)) library.loggingEnabled?.(false)
  return libraries
}

/** The map mode in which both axes have scales of their own. */
const ANISOTROPIC = 8
/** What stands before a metafile to tell how large it is. */
const PLACEABLE = 0x9ac6cdd7
/** [MS-EMF], §2.2.10, bOpenGL. */
const OPEN_GL_AT = 96
const DRAWN = 'path, rect, ellipse, line, polygon, polyline, text, image, circle'

/** What is none of the characters that XML may have. @see XML 1.0, §2.2 */
// biome-ignore lint/suspicious/noControlCharactersInRegex: they are what is looked for
const NOT_XML = /[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]/g

export type Metafile = 'emf' | 'wmf'

/** @returns which kind it is; null for none */
export function metafileKind(bytes: Uint8Array): Metafile | null {
  if (bytes.length < 44) return null
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length)
  if (view.getUint32(0, true) === 1 && view.getUint32(40, true) === 0x464d4520) return 'emf'
  if (view.getUint32(0, true) === PLACEABLE) return 'wmf'
  return null
}

/**
 * Records that draw or place and that the library passes over: ellipses and arcs, lines of 32-bit points, regions, bitmaps, text, the world's
 * transforms. @see [MS-EMF], §2.1.1, RecordType
 */
const PASSED_OVER = new Set([
  ...[4, 6, 7, 15, 35, 36, 41, 42, 45, 46, 47, 55, 56, 63, 71, 72, 74, 76, 77, 78, 79, 80, 81],
  ...[83, 84, 90, 92, 96, 97, 108, 114, 116, 118],
])

/** Whether something of a metafile is passed over when it is drawn. */
export function isDrawnInPart(bytes: Uint8Array, kind: Metafile): boolean {
  return kind === 'emf' && [...recordsOf(bytes)].some(({ type }) => PASSED_OVER.has(type))
}

/** Records of an EMF file in order, as far as they say how long they are. */
function* recordsOf(bytes: Uint8Array): Generator<{ type: number; at: number; size: number }> {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length)
  for (let at = 0; at + 8 <= bytes.length; ) {
    const [type, size] = [view.getUint32(at, true), view.getUint32(at + 4, true)]
    if (size < 8 || at + size > bytes.length) return
    yield { type, at, size }
    at += size
  }
}

/** [MS-EMF], §2.3.1.7, EMR_STRETCHDIBITS: where its header and its pixels lie in the record. */
const [STRETCH_BITS, HEADER_AT, BITS_AT] = [81, 48, 56]

/** The bitmap that a metafile is nothing but a cover of, as a BMP file; null where there is none. */
function bitmapIn(bytes: Uint8Array): Uint8Array | null {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length)
  for (const { type, at, size } of recordsOf(bytes)) {
    if (type === STRETCH_BITS && size >= 80) {
      const part = (field: number) => {
        const from = at + view.getUint32(at + field, true)
        return bytes.subarray(from, from + view.getUint32(at + field + 4, true))
      }
      const [header, bits] = [part(HEADER_AT), part(BITS_AT)]
      const file = new Uint8Array(14 + header.length + bits.length)
      const out = new DataView(file.buffer)
      file.set([0x42, 0x4d])
      out.setUint32(2, file.length, true)
      out.setUint32(10, 14 + header.length, true)
      file.set(header, 14)
      file.set(bits, 14 + header.length)
      return file
    }
  }
  return null
}

/** @returns an SVG, or a BMP where it is nothing else; null for what the library cannot draw, or of which it draws nothing */
export function drawMetafile(bytes: Uint8Array, kind: Metafile): Uint8Array | null {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length)
  const copy = bytes.slice().buffer as ArrayBuffer
  // what it says of drawings of another library beside its own keeps the library from drawing any
  if (kind === 'emf' && view.getUint32(4, true) >= OPEN_GL_AT + 4) new DataView(copy).setUint32(OPEN_GL_AT, 0, true)
  const [left, top, right, bottom] =
    kind === 'emf' ? [8, 12, 16, 20].map((at) => view.getInt32(at, true)) : [6, 8, 10, 12].map((at) => view.getInt16(at, true))
  const [width, height] = [Math.max(1, Math.abs(right! - left!)), Math.max(1, Math.abs(bottom! - top!))]
  const size = { width: `${width}px`, height: `${height}px`, xExt: width, yExt: height, mapMode: ANISOTROPIC }
  try {
    const library = loaded()[kind]
    const svg = new library.Renderer(copy).render(kind === 'emf' ? { ...size, wExt: width, hExt: height } : size)
    if (svg.querySelector(DRAWN) === null) return kind === 'emf' ? bitmapIn(bytes) : null
    return new TextEncoder().encode(svg.outerHTML.replace(NOT_XML, ''))
  } catch {
    return null
  }
}
