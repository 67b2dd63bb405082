/** Files that somebody or something has damaged: no crash, no hang, nothing left. More rounds in the long run, and with FUZZ_ROUNDS. */

import { execFileSync } from 'node:child_process'
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate'
import sharp from 'sharp'
import { describe, expect, test } from 'vitest'
import { toInt16 } from '#core/audio/signal/pcm.ts'
import { writeWav } from '#core/audio/signal/wav.ts'
import { readMarkdown } from '#core/deck/markdown.ts'
import { DeckProblem } from '#core/deck/problem.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { paintDrawing, picturesOf } from '#server/import/paint-deck.ts'
import { openPdf } from '#server/import/pdf.ts'
import { keepGivenPicture } from '#server/import/picture.ts'
import { kindOfZip, readDeckFile } from '#server/import/read-deck.ts'
import { ffmpegAt } from '#server/media/ffmpeg.ts'
import { withMono } from '#server/media/read-sound.ts'
import { folderStore } from '#server/storage/file-store.ts'
import { demoFile } from '#tests/api/harness.ts'
import { click, enters, moved, onShape, paragraphs, timing } from '#tests/made/clicks.ts'
import { damaged } from '#tests/made/damaged.ts'
import { makeDeck } from '#tests/made/deck-maker.ts'
import { noise, random, seconds } from '#tests/made/sound.ts'
import { IS_LONG } from '#tests/support/long.ts'

const ROUNDS = Number(process.env.FUZZ_ROUNDS ?? (IS_LONG ? 60 : 4))
const LONGEST_MS = 10_000

/** Damage inside a part, so that the zip itself is whole and the reader of the part has to cope. */
function damagedInside(files: Record<string, Uint8Array>, seed: number): Uint8Array {
  const next = random(seed)
  const names = Object.keys(files).filter((name) => /\.(xml|rels)$/.test(name))
  const name = names[Math.floor(next() * names.length)]!
  const text = strFromU8(files[name]!)
  const values = [...text.matchAll(/"([^"]*)"/g)]
  const odd = ['', '-1', '999999999999', 'NaN', '../../x', 'rId999', '☃', '0']
  let out = text
  for (let i = 0; i < 3 && values.length > 0; i++) {
    const { index, 0: whole } = values[Math.floor(next() * values.length)]!
    out = `${out.slice(0, index)}"${odd[Math.floor(next() * odd.length)]}"${out.slice(index + whole.length)}`
  }
  return zipSync({ ...files, [name]: next() < 0.5 ? strToU8(out) : damaged(strToU8(out), seed) })
}

/** Reads bytes by way of a file, as the app does. */
const asFile =
  (read: (path: string) => Promise<unknown>) =>
  async (bytes: Uint8Array): Promise<void> => {
    const folder = mkdtempSync(join(tmpdir(), 'lectern-fuzz-'))
    try {
      const path = join(folder, 'given')
      writeFileSync(path, bytes)
      await read(path)
    } finally {
      rmSync(folder, { recursive: true, force: true })
    }
  }
let painted = 0
const asDeck = (name: string) =>
  asFile(async (path) => {
    const deck = await readDeckFile(path, name)
    try {
      // what can be read has to be painted as well: one slide, another in each round
      const slide = deck.slides[painted++ % deck.slides.length]!
      for (const drawing of [slide.drawing, ...slide.steps.slice(-1).map((step) => step.drawing)])
        await paintDrawing(drawing, picturesOf(deck.part))
    } finally {
      deck.close()
    }
  })

async function survives(bytes: Uint8Array, read: (bytes: Uint8Array) => unknown) {
  const began = performance.now()
  try {
    await read(bytes)
  } catch (error) {
    // said in a sentence, and not fallen over
    if (!(error instanceof DeckProblem) && !(error instanceof UserFacingError)) throw error
  }
  expect(performance.now() - began).toBeLessThan(LONGEST_MS)
}

describe('damaged files are refused in a sentence or read as far as they go', () => {
  test('presentation files', async () => {
    const picture = await sharp({ create: { width: 16, height: 9, channels: 3, background: '#335577' } })
      .png()
      .toBuffer()
    const files = unzipSync(await makeDeck({ picture }))
    // with clicks on its first slides
    for (const n of [1, 2, 3]) {
      const name = `ppt/slides/slide${n}.xml`
      const clicks = [click(enters(onShape(2)), moved(onShape(3), 'M 0 0 L 0.2 0 E')), click(enters(onShape(3, paragraphs(0))))]
      files[name] = strToU8(strFromU8(files[name]!).replace('</p:sld>', `${timing(clicks)}</p:sld>`))
    }
    const deck = zipSync(files)
    const read = asDeck('a.pptx')
    for (let seed = 1; seed <= ROUNDS; seed++) {
      await survives(damaged(deck, seed), read)
      await survives(damagedInside(files, seed), read)
      await survives(
        damaged(deck, seed),
        asFile((path) => kindOfZip(path, 'a.zip')),
      )
    }
  }, 600_000)
  test('OpenDocument', async () => {
    const content = `<office:document-content xmlns:office="o" xmlns:draw="d" xmlns:text="t" xmlns:svg="v"><office:body><office:presentation><draw:page draw:name="a"><draw:frame svg:x="1cm" svg:y="1cm" svg:width="9cm" svg:height="3cm"><draw:text-box><text:p>Hello</text:p></draw:text-box></draw:frame><draw:line svg:x1="1cm" svg:y1="1cm" svg:x2="2cm" svg:y2="3cm"/><draw:custom-shape draw:id="s" svg:x="1cm" svg:y="5cm" svg:width="4cm" svg:height="3cm"><draw:enhanced-geometry svg:viewBox="0 0 100 100" draw:modifiers="30 40" draw:text-areas="0 0 ?f0 100" draw:enhanced-path="M 0 0 L ?f0 0 $1 100 Z N U 50 50 20 20 0 360 Z N"><draw:equation draw:name="f0" draw:formula="right-$0*sin(pi/6)"/></draw:enhanced-geometry></draw:custom-shape><draw:path svg:x="1cm" svg:y="9cm" svg:width="4cm" svg:height="3cm" svg:viewBox="0 0 10 10" svg:d="M0 0h10q0 5-5 5z"/><draw:frame svg:x="6cm" svg:y="5cm" svg:width="9cm" svg:height="6cm"><draw:object xlink:href="./Object 1"/></draw:frame><draw:frame svg:x="6cm" svg:y="1cm" svg:width="9cm" svg:height="3cm"><table:table><table:table-row><table:table-cell><text:p>May</text:p></table:table-cell></table:table-row></table:table></draw:frame><anim:par presentation:node-type="timing-root"><anim:seq presentation:node-type="main-sequence"><anim:par smil:begin="next"><anim:par smil:begin="0s"><anim:par smil:begin="0s" presentation:node-type="on-click" presentation:preset-class="entrance"><anim:set smil:targetElement="s" smil:attributeName="visibility" smil:to="visible"/></anim:par></anim:par></anim:par></anim:seq></anim:par></draw:page></office:presentation></office:body></office:document-content>`
    const cell = (value: number) => `<table:table-cell office:value="${value}"><text:p>${value}</text:p></table:table-cell>`
    const chart = `<office:document-content><office:body><office:chart><chart:chart chart:class="chart:bar"><chart:plot-area><chart:axis chart:dimension="y"/><chart:series/></chart:plot-area><table:table><table:table-rows><table:table-row><table:table-cell><text:p>May</text:p></table:table-cell>${cell(3)}</table:table-row></table:table-rows></table:table></chart:chart></office:chart></office:body></office:document-content>`
    const files = {
      mimetype: strToU8('application/vnd.oasis.opendocument.presentation'),
      'content.xml': strToU8(content),
      'Object 1/content.xml': strToU8(chart),
    }
    for (let seed = 1; seed <= ROUNDS * 2; seed++) await survives(damagedInside(files, seed), asDeck('a.odp'))
  }, 600_000)
  test('PDF', async () => {
    const pdf = demoFile('clouds-by-their-shapes.pdf')
    const read = asFile(async (path) => {
      const document = await openPdf('a.pdf', path)
      try {
        for (let i = 0; i < Math.min(2, document.pages); i++) document.page(i)
      } finally {
        document.close()
      }
    })
    for (let seed = 1; seed <= ROUNDS; seed++) await survives(damaged(pdf, seed), read)
  }, 600_000)
  test('sounds', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'lectern-fuzz-'))
    try {
      const given = join(folder, 'given.wav')
      writeFileSync(given, writeWav(toInt16(noise(0.1, seconds(1))), 48_000))
      const forms = ['wav', 'flac', 'mp3', 'm4a', 'ogg', 'webm']
      const whole = forms.map((form) => {
        const path = join(folder, `whole.${form}`)
        execFileSync('ffmpeg', ['-v', 'error', '-i', given, path])
        return readFileSync(path)
      })
      const path = join(folder, 'damaged')
      const store = folderStore(folder)
      const read = () => withMono({ media: ffmpegAt('ffmpeg'), store }, path, { name: 'damaged' }, async ({ note }) => note)
      for (let seed = 1; seed <= ROUNDS; seed++) {
        const bytes = damaged(whole[seed % forms.length]!, seed)
        writeFileSync(path, bytes)
        await survives(bytes, read)
      }
    } finally {
      rmSync(folder, { recursive: true, force: true })
    }
  }, 900_000)
  test('pictures', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'lectern-fuzz-'))
    try {
      const drawn = sharp({
        create: { width: 64, height: 36, channels: 3, background: '#335577', noise: { type: 'gaussian', mean: 120, sigma: 40 } },
      })
      const whole: Uint8Array[] = [
        await drawn.clone().png().toBuffer(),
        await drawn.clone().jpeg().toBuffer(),
        await drawn.clone().webp().toBuffer(),
        await drawn.clone().avif().toBuffer(),
        await drawn.clone().gif().toBuffer(),
        strToU8(
          '<svg xmlns="http://www.w3.org/2000/svg" width="64" height="36"><rect width="9" height="9" fill="red"/><text x="3" y="20">A</text></svg>',
        ),
      ]
      const store = folderStore(folder)
      for (let seed = 1; seed <= ROUNDS; seed++)
        await survives(damaged(whole[seed % whole.length]!, seed), (bytes) => keepGivenPicture(store, 'a.png', bytes))
      expect(readdirSync(join(folder, 'scratch'))).toEqual([])
    } finally {
      rmSync(folder, { recursive: true, force: true })
    }
  }, 600_000)
  test('Markdown', async () => {
    const text = strToU8(
      '# One\n\n- a\n  - b\n\n| a | b |\n|---|---|\n| 1 | 2 |\n\n![x](y.png)\n\n> q\n\nNotes: n\n---\n## Two\n```\ncode\n```\n',
    )
    for (let seed = 1; seed <= ROUNDS * 4; seed++)
      await survives(damaged(text, seed), (bytes) => readMarkdown(new TextDecoder().decode(bytes), 'a.md', new Set()))
  }, 600_000)
})
