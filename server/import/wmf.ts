/** Files of drawing orders of the older kind (WMF) as SVG, by a library that draws them into a document. @see [MS-WMF] */
import { createRequire } from 'node:module'
import { parseHTML } from 'linkedom'

interface Library {
  Renderer: new (
    bytes: ArrayBuffer,
  ) => {
    render(settings: { width: string; height: string; xExt: number; yExt: number; mapMode: number }): {
      outerHTML: string
      querySelector(selector: string): unknown
    }
  }
  loggingEnabled(enabled: boolean): void
}

const require = createRequire(import.meta.url)
let library: Library | null = null

/** The library asks for a document when it draws. */
function loaded(): Library {
  if (library) return library
  Object.assign(globalThis, { document: parseHTML('<html><body></body></html>').document })
  library = require('rtf.js/dist/WMFJS.bundle.min.js') as Library
  library.loggingEnabled(false)
  return library
}

/** The map mode in which both axes have scales of their own. */
const ANISOTROPIC = 8
const DRAWN = 'path, rect, ellipse, line, polygon, polyline, text, image, circle'

/** What is none of the characters that XML may have. @see XML 1.0, §2.2 */
// biome-ignore lint/suspicious/noControlCharactersInRegex: they are what is looked for
const NOT_XML = /[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]/g

/** What stands before the records: what tells how large it is, and the header. */
const HEADERS = 22 + 18
/**
 * Records that draw and that the library passes over: filled and framed regions, floods, single points, patterns, parts of ellipses, bitmaps
 * of one device.
 *
 * @see [MS-WMF], §2.1.1.1 RecordType
 */
const PASSED_OVER = new Set([0x12a, 0x12b, 0x228, 0x419, 0x41f, 0x429, 0x548, 0x61d, 0x817, 0x81a, 0x830, 0x922, 0xb23, 0xd33])

function isWhole(view: DataView): boolean {
  for (let at = HEADERS; at + 6 <= view.byteLength; ) {
    if (PASSED_OVER.has(view.getUint16(at + 4, true))) return false
    at += 2 * Math.max(3, view.getUint32(at, true))
  }
  return true
}

export interface DrawnWmf {
  svg: Uint8Array
  /** Nothing was passed over. */
  isWhole: boolean
}

/** @param bytes of a file with what tells how large it is before it @returns null for what the library cannot draw, or of which it draws nothing */
export function drawWmf(bytes: Uint8Array): DrawnWmf | null {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length)
  const [left = 0, top = 0, right = 0, bottom = 0] = [6, 8, 10, 12].map((at) => view.getInt16(at, true))
  const [width, height] = [Math.max(1, Math.abs(right - left)), Math.max(1, Math.abs(bottom - top))]
  try {
    const svg = new (loaded().Renderer)(bytes.slice().buffer as ArrayBuffer).render({
      width: `${width}px`,
      height: `${height}px`,
      xExt: width,
      yExt: height,
      mapMode: ANISOTROPIC,
    })
    if (svg.querySelector(DRAWN) === null) return null
    return { svg: new TextEncoder().encode(svg.outerHTML.replace(NOT_XML, '')), isWhole: isWhole(view) }
  } catch {
    return null
  }
}
