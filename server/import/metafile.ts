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

/** @returns an SVG; null for what the library cannot draw, or of which it draws nothing */
export function drawMetafile(bytes: Uint8Array, kind: Metafile): Uint8Array | null {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length)
  const copy = bytes.slice().buffer as ArrayBuffer
  const [left, top, right, bottom] =
    kind === 'emf' ? [8, 12, 16, 20].map((at) => view.getInt32(at, true)) : [6, 8, 10, 12].map((at) => view.getInt16(at, true))
  const [width, height] = [Math.max(1, Math.abs(right! - left!)), Math.max(1, Math.abs(bottom! - top!))]
  const size = { width: `${width}px`, height: `${height}px`, xExt: width, yExt: height, mapMode: ANISOTROPIC }
  try {
    const library = loaded()[kind]
    const svg = new library.Renderer(copy).render(kind === 'emf' ? { ...size, wExt: width, hExt: height } : size)
    if (svg.querySelector(DRAWN) === null) return null
    return new TextEncoder().encode(svg.outerHTML.replace(NOT_XML, ''))
  } catch {
    return null
  }
}
