/** Files that never end, or that break what reads them: the import says so within its bounds, and the next file is read as if nothing had been. */
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs'
import { createRequire } from 'node:module'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type PptxGenJS from 'pptxgenjs'
import sharp from 'sharp'
import { afterAll, expect, onTestFinished, test } from 'vitest'
import { ALLOCATOR } from '#server/config/allocator.ts'
import { startImporter } from '#server/import/importer.ts'
import { folderStore } from '#server/storage/file-store.ts'
import { demoFile } from '#tests/api/harness.ts'
import { IS_LONG } from '#tests/support/long.ts'

const longTest = test.runIf(IS_LONG)

const Pptx = createRequire(import.meta.url)('pptxgenjs') as typeof PptxGenJS
const dataFolder = mkdtempSync(join(tmpdir(), 'lectern-bounds-'))
const store = folderStore(dataFolder)
const importer = startImporter({ silenceMs: 4000 })
afterAll(() => {
  importer.close()
  rmSync(dataFolder, { recursive: true, force: true })
})

const given = async (name: string, content: string | Uint8Array) => ({
  name,
  file: await store.put(typeof content === 'string' ? new TextEncoder().encode(content) : content),
  dataFolder,
})
const picture = async (name: string, content: string, signal?: AbortSignal) =>
  importer.run('pictures', { given: [await given(name, content)], dataFolder }, { name, ...(signal && { signal }) })
const pages = async () =>
  (await importer.run('pdf', await given('clouds.pdf', demoFile('clouds-by-their-shapes.pdf')), { name: 'clouds.pdf' })).pages
    .length

/** Noise over noise, in 3 kB: drawing it takes hours. */
const endlessSvg = `<svg xmlns="http://www.w3.org/2000/svg" width="3000" height="3000"><filter id="f" x="0" y="0" width="1" height="1">${Array.from(
  { length: 60 },
  (_, i) => `<feTurbulence baseFrequency="0.${i + 1}" numOctaves="200"/>`,
).join('')}</filter><rect width="3000" height="3000" filter="url(#f)"/></svg>`

const pdfOf = (objects: string[]) => {
  let text = '%PDF-1.4\n'
  const places = objects.map((object, i) => {
    const at = text.length
    text += `${i + 1} 0 obj${object}endobj\n`
    return at
  })
  const xref = text.length
  text += `xref\n0 ${objects.length + 1}\n0000000000 65535 f \n${places.map((at) => `${String(at).padStart(10, '0')} 00000 n \n`).join('')}`
  return `${text}trailer<</Root 1 0 R/Size ${objects.length + 1}>>\nstartxref\n${xref}\n%%EOF`
}
const stream = (dictionary: string, content: string) =>
  `<<${dictionary}/Length ${content.length}>>stream\n${content}\nendstream\n`
const pageWith = (resources: string, content: string, ...more: string[]) =>
  pdfOf([
    '<</Type/Catalog/Pages 2 0 R>>',
    '<</Type/Pages/Kids[3 0 R]/Count 1>>',
    `<</Type/Page/Parent 2 0 R/MediaBox[0 0 960 540]/Resources<<${resources}>>/Contents 4 0 R>>`,
    stream('', content),
    ...more,
  ])

longTest('a drawing that never ends is given up in time, and the next one is drawn', async () => {
  const began = Date.now()
  await expect(picture('noise.svg', endlessSvg)).rejects.toThrow(
    /“noise.svg” (was not drawn within 4 seconds of work|needs more than 600 MB)/,
  )
  expect(Date.now() - began).toBeLessThan(25_000)
  const [drawn] = await picture(
    'plain.svg',
    '<svg xmlns="http://www.w3.org/2000/svg" width="64" height="36"><rect width="64" height="36" fill="red"/></svg>',
  )
  expect(drawn!.width).toBeGreaterThan(0)
})

test('one that is cancelled ends at once', async () => {
  const controller = new AbortController()
  const drawing = picture('noise.svg', `${endlessSvg}<!-- again -->`, controller.signal)
  setTimeout(() => controller.abort(new Error('cancelled')), 700)
  const began = Date.now()
  await expect(drawing).rejects.toThrow('cancelled')
  expect(Date.now() - began).toBeLessThan(1500)
})

longTest('a form that draws itself ends in a sentence or a page, and all other PDFs go on being read', async () => {
  const form = '/Type/XObject/Subtype/Form/BBox[0 0 960 540]/Resources<</XObject<</F 5 0 R>>>>'
  const itself = pageWith('/XObject<</F 5 0 R>>', '/F Do', stream(form, '/F Do /F Do'))
  const read = await importer.run('pdf', await given('itself.pdf', itself), { name: 'itself.pdf' }).then(
    (found) => `${found.pages.length} page`,
    (error: Error) => error.message,
  )
  expect(read).toMatch(/^1 page$|“itself.pdf”/)
  expect(await pages()).toBe(4)
})

longTest('a pattern in a pattern in a pattern is given up in time, and the next PDF is read', async () => {
  const deepest = 12
  const tile = (inner: string | null) =>
    `/Type/Pattern/PatternType 1/PaintType 1/TilingType 1/BBox[0 0 1 1]/XStep 0.4/YStep 0.4/Resources<<${inner ? `/Pattern<</P ${inner}>>` : ''}>>`
  const patterns = Array.from({ length: deepest }, (_, i) =>
    stream(
      tile(i + 1 < deepest ? `${i + 6} 0 R` : null),
      i + 1 < deepest ? '/Pattern cs /P scn 0 0 1 1 re f' : '1 0 0 rg 0 0 1 1 re f',
    ),
  )
  const deep = pageWith('/Pattern<</P 5 0 R>>', '/Pattern cs /P scn 0 0 960 540 re f', ...patterns)
  const began = Date.now()
  await importer
    .run('pdf', await given('deep.pdf', deep), { name: 'deep.pdf' })
    .catch((error: Error) => expect(error.message).toMatch(/“deep.pdf”/))
  expect(Date.now() - began).toBeLessThan(25_000)
  expect(await pages()).toBe(4)
})

/** Processes that read files for this one. */
const readers = () =>
  readdirSync('/proc').filter((pid) => {
    try {
      const [, parent] = /\) \S (\d+)/.exec(readFileSync(`/proc/${pid}/stat`, 'utf8'))!
      return Number(parent) === process.pid && readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('server/import.js')
    } catch {
      return false
    }
  })

longTest('a file that comes at the moment in which a process ends for want of work is read by another', async () => {
  const hasty = startImporter({ idleMs: 40 })
  onTestFinished(() => hasty.close())
  const file = await given('clouds.pdf', demoFile('clouds-by-their-shapes.pdf'))
  await hasty.run('pdf', file, { name: 'clouds.pdf' })
  // this timer is due right after the one that ends the process, which then is dying and not yet gone
  await new Promise((resolve) => setTimeout(resolve, 40))
  expect((await hasty.run('pdf', file, { name: 'clouds.pdf' })).pages).toHaveLength(4)
})

test('a process that is ended from outside is not missed', async () => {
  const drawing = picture('noise.svg', `${endlessSvg}<!-- once more -->`)
  setTimeout(() => {
    for (const pid of readers()) process.kill(Number(pid), 'SIGKILL')
  }, 800)
  await expect(drawing).rejects.toThrow(/broke off what reads it/)
  expect(await pages()).toBe(4)
})

/** One more of each is as much work again, and the same bound. */
const [SLIDES, PICTURES] = IS_LONG ? [3, [1, 2]] : [1, [1]]
longTest(
  'large photographs are no abuse: a deck of them, and pictures of 48 million pixels, are drawn within the bounds',
  async () => {
    const photograph = async (width: number, height: number, seed: number) => {
      const raw = Buffer.alloc(width * height * 3)
      for (let k = 0; k < raw.length; k += 29) raw[k] = (k * (seed + 3)) & 255
      return sharp(raw, { raw: { width, height, channels: 3 } })
        .jpeg({ quality: 90 })
        .toBuffer()
    }
    const deck = new Pptx()
    for (let i = 0; i < SLIDES; i++) {
      const slide = deck.addSlide()
      for (const x of [0, 5]) {
        const data = `image/jpeg;base64,${(await photograph(4000, 3000, 2 * i + x)).toString('base64')}`
        slide.addImage({ data, x, y: 0, w: 5, h: 4 })
      }
    }
    const usual = startImporter()
    try {
      const bytes = new Uint8Array((await deck.write({ outputType: 'nodebuffer' })) as Buffer)
      const input = { ...(await given('photographs.pptx', bytes)), pages: [], pictures: [] }
      expect((await usual.run('deck', input, { name: 'photographs.pptx' })).pages).toHaveLength(SLIDES)
      const large = await Promise.all(
        PICTURES.map(async (n) => given(`${n}.jpg`, new Uint8Array(await photograph(8000, 6000, n)))),
      )
      expect(await usual.run('pictures', { given: large, dataFolder }, { name: 'the pictures' })).toHaveLength(PICTURES.length)
    } finally {
      usual.close()
    }
  },
)

test('the server that people start keeps memory as its helpers do', () => {
  const shell = readFileSync(join(import.meta.dirname, '../../../lectern'), 'utf8')
  for (const [name, value] of Object.entries(ALLOCATOR))
    expect(shell).toMatch(new RegExp(`^export .*\\b${name}=${value}\\b`, 'm'))
})

test('nothing is left of what was given up', () => {
  expect(readdirSync(store.scratch)).toEqual([])
})
