/** Pages of a PDF as pictures and text (PDFium). */

import { closeSync, fstatSync, openSync, readSync } from 'node:fs'
import { readFile } from 'node:fs/promises'
import { createRequire } from 'node:module'
import { init, type WrappedPdfiumModule } from '@embedpdf/pdfium'
import { MOST_SLIDES } from '#core/deck/deck.ts'
import type { PageText } from '#core/deck/title.ts'
import { Language } from '#core/language-tag.ts'
import { message } from '#core/words/say.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'

export const MOST_PAGES = MOST_SLIDES
const WIDTH = 1920
const HEIGHT = 1080
const RENDER_ANNOTATIONS = 0x01
const BGRA = 4
/** The narrowest gap that is a space, in heights of the text. */
const NARROWEST_SPACE = 0.12
/** PDFium's own error numbers (fpdfview.h). */
const ERROR_PASSWORD = 4

let loading: Promise<WrappedPdfiumModule> | null = null
function pdfium(): Promise<WrappedPdfiumModule> {
  loading ??= (async () => {
    const wasm = await readFile(createRequire(import.meta.url).resolve('@embedpdf/pdfium/pdfium.wasm'))
    const module = await init({ wasmBinary: wasm.buffer.slice(wasm.byteOffset, wasm.byteOffset + wasm.length) as ArrayBuffer })
    module.PDFiumExt_Init()
    return module
  })()
  return loading
}

export interface PdfPage {
  rgba: Uint8Array
  width: number
  height: number
  text: PageText[]
  /** What somebody noted on the page. */
  notes: string
  /** Its number as printed, "iv" or "A-2"; '' where that is just its place. */
  label: string
}

export interface Pdf {
  pages: number
  /** What it says its text is written in (BCP 47); null where it says nothing. */
  language: string | null
  /** What it says it is called; '' where it says nothing. */
  title: string
  /** Headings of its outline's first level, by the page that each begins on. */
  outline: Map<number, string>
  page(index: number): PdfPage
  close(): void
}

/** Lets PDFium read a file where it lies, so that a large one is never held whole. @see fpdfview.h, FPDF_FILEACCESS */
function fileAccess(m: WrappedPdfiumModule, path: string) {
  const { pdfium: runtime } = m
  const file = openSync(path, 'r')
  const getBlock = runtime.addFunction((_: number, position: number, buffer: number, size: number) => {
    const bytes = readSync(file, runtime.HEAPU8, buffer >>> 0, size >>> 0, position >>> 0)
    return bytes === size >>> 0 ? 1 : 0
  }, 'iiiii')
  // three 32-bit fields: length, function, parameter
  const access = runtime.wasmExports.malloc(12)
  runtime.setValue(access, fstatSync(file).size, 'i32')
  runtime.setValue(access + 4, getBlock, 'i32')
  runtime.setValue(access + 8, 0, 'i32')
  return {
    access,
    close() {
      runtime.wasmExports.free(access)
      runtime.removeFunction(getBlock)
      closeSync(file)
    },
  }
}

/**
 * @param name as the person knows the file, for sentences
 * @param path where it lies
 * @throws UserFacingError for a password, a broken file, no page or too many
 */
export async function openPdf(name: string, path: string): Promise<Pdf> {
  const m = await pdfium()
  const file = fileAccess(m, path)
  const document = m.FPDF_LoadCustomDocument(file.access, '')
  if (!document) {
    const locked = m.FPDF_GetLastError() === ERROR_PASSWORD
    file.close()
    throw locked
      ? new UserFacingError(
          message('“{name}” is locked with a password. Save a copy without the password and add that.', { name }),
          422,
        )
      : new UserFacingError(
          message('“{name}” begins like a PDF but cannot be read; it may be damaged or cut short. Export it again.', { name }),
          422,
        )
  }
  // fields of forms are drawn by what fills them in
  const formInfo = m.PDFiumExt_OpenFormFillInfo()
  const form = m.PDFiumExt_InitFormFillEnvironment(document, formInfo)
  const close = () => {
    if (form) m.PDFiumExt_ExitFormFillEnvironment(form)
    m.PDFiumExt_CloseFormFillInfo(formInfo)
    m.FPDF_CloseDocument(document)
    file.close()
  }
  const pages = m.FPDF_GetPageCount(document)
  if (pages < 1 || pages > MOST_PAGES) {
    close()
    throw new UserFacingError(
      pages < 1
        ? message('“{name}” has no pages. Export the deck again and check that it shows its slides.', { name })
        : message('“{name}” has {pages} pages; the most is {most}. Divide it and add the parts as lectures of their own.', {
            name,
            pages,
            most: MOST_PAGES,
          }),
      422,
    )
  }
  return {
    pages,
    language: readLanguage(m, document),
    title: readUtf16(m, (memory, size) => m.FPDF_GetMetaText(document, 'Title', memory, size)),
    outline: readOutline(m, document),
    close,
    page(index) {
      const page = m.FPDF_LoadPage(document, index)
      if (!page)
        throw new UserFacingError(
          message('Page {index} of “{name}” cannot be read; the file may be damaged. Export it again.', {
            index: index + 1,
            name,
          }),
          422,
        )
      try {
        // notes are read and taken off: their signs are not for learners
        const notes = takeNotes(m, page)
        return { ...draw(m, page, form), text: readText(m, page), notes, label: readLabel(m, document, index) }
      } finally {
        m.FPDF_ClosePage(page)
      }
    },
  }
}

/** ISO 32000-1, §12.5.6.4: a note has the subtype Text, which PDFium numbers 1; its words are its Contents. */
const NOTE = 1
const MOST_NOTES = 100

function takeNotes(m: WrappedPdfiumModule, page: number): string {
  const notes: string[] = []
  const count = Math.min(MOST_NOTES, m.FPDFPage_GetAnnotCount(page))
  for (let i = count - 1; i >= 0; i--) {
    const annotation = m.FPDFPage_GetAnnot(page, i)
    if (!annotation) continue
    const isNote = m.FPDFAnnot_GetSubtype(annotation) === NOTE
    if (isNote) {
      const bytes = m.FPDFAnnot_GetStringValue(annotation, 'Contents', 0, 0)
      const memory = m.pdfium.wasmExports.malloc(Math.max(2, bytes))
      m.FPDFAnnot_GetStringValue(annotation, 'Contents', memory, bytes)
      // UTF-16 with a zero at its end
      const text = new TextDecoder('utf-16le').decode(m.pdfium.HEAPU8.slice(memory, memory + Math.max(0, bytes - 2)))
      m.pdfium.wasmExports.free(memory)
      if (text.trim() !== '') notes.unshift(text.replace(/\r\n?/g, '\n').trim())
    }
    m.FPDFPage_CloseAnnot(annotation)
    if (isNote) m.FPDFPage_RemoveAnnot(page, i)
  }
  return notes.join('\n')
}

/** ISO 32000-1, §14.9.2: the catalogue's Lang. */
function readLanguage(m: WrappedPdfiumModule, document: number): string | null {
  const tag = readUtf16(m, (memory, size) => m.FPDFCatalog_GetLanguage(document, memory, size)).replaceAll('_', '-')
  return Language.safeParse(tag).success ? tag : null
}

/** An outline that names every page divides nothing. */
const MOST_HEADINGS = 200

/** ISO 32000-1, §12.3.3: the document's outline; its first level. */
function readOutline(m: WrappedPdfiumModule, document: number): Map<number, string> {
  const outline = new Map<number, string>()
  let entry = m.FPDFBookmark_GetFirstChild(document, 0)
  for (let i = 0; entry && i < MOST_HEADINGS; i++) {
    const title = readUtf16(m, (memory, size) => m.FPDFBookmark_GetTitle(entry, memory, size))
    const place = m.FPDFBookmark_GetDest(document, entry)
    const page = place ? m.FPDFDest_GetDestPageIndex(document, place) : -1
    if (title !== '' && page >= 0 && !outline.has(page)) outline.set(page, title.slice(0, 200))
    entry = m.FPDFBookmark_GetNextSibling(document, entry)
  }
  return outline
}

const LONGEST_NAME = 400

/** A short text that PDFium writes as UTF-16 with a zero at its end; '' where there is none. */
function readUtf16(m: WrappedPdfiumModule, write: (memory: number, size: number) => number): string {
  const bytes = write(0, 0)
  // one that is only a zero, or as long as no name is
  if (bytes <= 2 || bytes > LONGEST_NAME) return ''
  const memory = m.pdfium.wasmExports.malloc(bytes)
  write(memory, bytes)
  const text = new TextDecoder('utf-16le').decode(m.pdfium.HEAPU8.slice(memory, memory + bytes - 2)).trim()
  m.pdfium.wasmExports.free(memory)
  return text
}

/** Page labels of ISO 32000-1, §12.4.2. */
function readLabel(m: WrappedPdfiumModule, document: number, index: number): string {
  const label = readUtf16(m, (memory, size) => m.FPDF_GetPageLabel(document, index, memory, size))
  return label === String(index + 1) ? '' : label
}

function draw(m: WrappedPdfiumModule, page: number, form: number): Omit<PdfPage, 'text' | 'notes' | 'label'> {
  const [pageWidth, pageHeight] = [Math.max(1, m.FPDF_GetPageWidthF(page)), Math.max(1, m.FPDF_GetPageHeightF(page))]
  const scale = Math.min(WIDTH / pageWidth, HEIGHT / pageHeight)
  const width = Math.max(1, Math.round(pageWidth * scale))
  const height = Math.max(1, Math.round(pageHeight * scale))
  const memory = m.pdfium.wasmExports.malloc(width * height * 4)
  const bitmap = m.FPDFBitmap_CreateEx(width, height, BGRA, memory, width * 4)
  try {
    m.FPDFBitmap_FillRect(bitmap, 0, 0, width, height, 0xffffffff)
    m.FPDF_RenderPageBitmap(bitmap, page, 0, 0, width, height, 0, RENDER_ANNOTATIONS)
    if (form) m.FPDF_FFLDraw(form, bitmap, page, 0, 0, width, height, 0, RENDER_ANNOTATIONS)
    const rgba = m.pdfium.HEAPU8.slice(memory, memory + width * height * 4)
    for (let i = 0; i < rgba.length; i += 4) {
      const blue = rgba[i]!
      rgba[i] = rgba[i + 2]!
      rgba[i + 2] = blue
    }
    return { rgba, width, height }
  } finally {
    m.FPDFBitmap_Destroy(bitmap)
    m.pdfium.wasmExports.free(memory)
  }
}

/** Runs of text of one size on one line. Sizes are those on the page, whatever matrix the writer used. */
function readText(m: WrappedPdfiumModule, page: number): PageText[] {
  const textPage = m.FPDFText_LoadPage(page)
  if (!textPage) return []
  const box = m.pdfium.wasmExports.malloc(16) // FS_RECTF: left, top, right, bottom as 32-bit floats
  const pageHeight = m.FPDF_GetPageHeightF(page)
  const runs: PageText[] = []
  try {
    let space = false
    let [lastRight, lastBottom] = [0, 0]
    for (let i = 0; i < m.FPDFText_CountChars(textPage); i++) {
      const char = String.fromCodePoint(m.FPDFText_GetUnicode(textPage, i) || 0x20)
      // where letters are set one by one PDFium guesses a space or a line end behind each: only places on the page are believed
      if (/\s/.test(char) || !m.FPDFText_GetLooseCharBox(textPage, i, box)) {
        space ||= m.FPDFText_IsGenerated(textPage, i) === 0
        continue
      }
      const [left, top, right, bottom] = new Float32Array(m.pdfium.HEAPU8.slice(box, box + 16).buffer) as unknown as [
        number,
        number,
        number,
        number,
      ]
      const fontSize = Math.abs(top - bottom)
      const last = runs.at(-1)
      const goesOn = Math.abs(bottom - lastBottom) < fontSize * 0.3 && left > lastRight - fontSize * 0.5
      if (last && goesOn && Math.abs(last.fontSize - fontSize) < last.fontSize * 0.05) {
        last.text += (space || left - lastRight > NARROWEST_SPACE * fontSize ? ' ' : '') + char
      } else runs.push({ text: char, fontSize, top: pageHeight - Math.max(top, bottom) })
      ;[lastRight, lastBottom, space] = [right, bottom, false]
    }
  } finally {
    m.pdfium.wasmExports.free(box)
    m.FPDFText_ClosePage(textPage)
  }
  return runs
}
