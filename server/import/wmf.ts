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

/** @param bytes of a file with what tells how large it is before it @returns an SVG; null for what the library cannot draw, or of which it draws nothing */
export function drawWmf(bytes: Uint8Array): Uint8Array | null {
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
    return new TextEncoder().encode(svg.outerHTML.replace(NOT_XML, ''))
  } catch {
    return null
  }
}
