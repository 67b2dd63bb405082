/** Files that were damaged, and files made to do harm. */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { strToU8, zipSync } from 'fflate'
import sharp from 'sharp'
import { toInt16 } from '#core/audio/signal/pcm.ts'
import { writeWav } from '#core/audio/signal/wav.ts'
import { makeDeck } from '#tests/made/deck-maker.ts'
import { noise, seconds } from '#tests/made/sound.ts'

export interface Whole {
  name: string
  bytes: Uint8Array
  /** Where it is dropped. */
  place: 'shelf' | 'sound' | 'picture' | 'bed' | 'captions'
}

/** One of each kind that can be dropped. */
export async function wholeFiles(): Promise<Whole[]> {
  const folder = mkdtempSync(join(tmpdir(), 'lectern-whole-'))
  try {
    const picture = await sharp({ create: { width: 320, height: 180, channels: 3, background: '#335577' } })
      .png()
      .toBuffer()
    const wav = join(folder, 'a.wav')
    writeFileSync(wav, writeWav(toInt16(noise(0.1, seconds(2))), 48_000))
    const sounds = ['wav', 'flac', 'mp3', 'm4a', 'ogg', 'webm'].map((form): Whole => {
      const path = join(folder, `b.${form}`)
      execFileSync('ffmpeg', ['-v', 'error', '-i', wav, path])
      return { name: `slide 1.${form}`, bytes: readFileSync(path), place: 'sound' }
    })
    const content = `<office:document-content xmlns:office="o" xmlns:draw="d" xmlns:text="t" xmlns:svg="v"><office:body><office:presentation><draw:page draw:name="a"><draw:frame svg:x="1cm" svg:y="1cm" svg:width="9cm" svg:height="3cm"><draw:text-box><text:p>Hello</text:p></draw:text-box></draw:frame></draw:page></office:presentation></office:body></office:document-content>`
    const odp = zipSync({ mimetype: strToU8('application/vnd.oasis.opendocument.presentation'), 'content.xml': strToU8(content) })
    const image = sharp(picture)
    const pictures: [string, Uint8Array][] = [
      ['a.png', picture],
      ['a.jpg', await image.clone().jpeg().toBuffer()],
      ['a.webp', await image.clone().webp().toBuffer()],
      ['a.gif', await image.clone().gif().toBuffer()],
      ['a.avif', await image.clone().avif().toBuffer()],
      ['a.svg', strToU8('<svg xmlns="http://www.w3.org/2000/svg" width="64" height="36"><text x="3" y="20">A</text></svg>')],
    ]
    return [
      { name: 'clouds.pdf', bytes: readFileSync('demo/files/clouds-by-their-shapes.pdf'), place: 'shelf' },
      { name: 'deck.pptx', bytes: await makeDeck({ picture }), place: 'shelf' },
      { name: 'deck.odp', bytes: odp, place: 'shelf' },
      {
        name: 'pictures.zip',
        bytes: zipSync({ 'a.png': new Uint8Array(picture), 'b.png': new Uint8Array(picture) }),
        place: 'shelf',
      },
      {
        name: 'deck.md',
        bytes: strToU8('# One\n\n- a\n  - b\n\n| a | b |\n|---|---|\n| 1 | 2 |\n\n---\n\n# Two\n'),
        place: 'shelf',
      },
      { name: 'old.lectern.zip', bytes: readFileSync('tests/fixtures/bundle-1.lectern.zip'), place: 'shelf' },
      ...sounds,
      { ...sounds[1]!, place: 'bed' },
      ...pictures.map(([name, bytes]): Whole => ({ name, bytes, place: 'picture' })),
      { name: 'a.vtt', bytes: strToU8('WEBVTT\n\n00:00.000 --> 00:02.000\nHello\n'), place: 'captions' },
    ]
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}

/** Each of these once cost minutes or gigabytes. */
export function harmfulFiles(): Whole[] {
  const folder = mkdtempSync(join(tmpdir(), 'lectern-harm-'))
  try {
    const filter = Array.from({ length: 60 }, (_, i) => `<feTurbulence baseFrequency="0.${i + 1}" numOctaves="200"/>`).join('')
    const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="3000" height="3000"><filter id="f">${filter}</filter><rect width="3000" height="3000" filter="url(#f)"/></svg>`
    const music = join(folder, 'long.mp3')
    execFileSync('ffmpeg', ['-v', 'error', '-f', 'lavfi', '-i', 'anoisesrc=r=44100:d=10440:a=0.1', '-b:a', '32k', music])
    const silence = join(folder, 'silence.flac')
    execFileSync('ffmpeg', ['-v', 'error', '-f', 'lavfi', '-i', 'anullsrc=r=48000:cl=stereo:d=21000', silence])
    const form = '/Type/XObject/Subtype/Form/BBox[0 0 960 540]/Resources<</XObject<</F 5 0 R>>>>'
    const object = (n: number, text: string) => `${n} 0 obj${text}endobj\n`
    const stream = (head: string, body: string) => `<<${head}/Length ${body.length}>>stream\n${body}\nendstream\n`
    const itself = `%PDF-1.4\n${object(1, '<</Type/Catalog/Pages 2 0 R>>')}${object(2, '<</Type/Pages/Kids[3 0 R]/Count 1>>')}${object(3, '<</Type/Page/Parent 2 0 R/MediaBox[0 0 960 540]/Resources<</XObject<</F 5 0 R>>>>/Contents 4 0 R>>')}${object(4, stream('', '/F Do'))}${object(5, stream(form, '/F Do /F Do'))}trailer<</Root 1 0 R>>\n%%EOF`
    const zeros = new Uint8Array(90_000_000)
    const bomb = zipSync(Object.fromEntries(Array.from({ length: 15 }, (_, i) => [`${i}.png`, zeros])), { level: 9 })
    const slides = `# ${'a'.repeat(4_000_000)}\n`
    return [
      { name: 'noise.svg', bytes: strToU8(svg), place: 'picture' },
      { name: 'noise.svg', bytes: strToU8(`${svg}<!-- on the shelf -->`), place: 'shelf' },
      { name: 'itself.pdf', bytes: strToU8(itself), place: 'shelf' },
      { name: 'bomb.zip', bytes: bomb, place: 'shelf' },
      { name: 'long.md', bytes: strToU8(slides), place: 'shelf' },
      { name: 'long.mp3', bytes: readFileSync(music), place: 'bed' },
      { name: 'silence.flac', bytes: readFileSync(silence), place: 'bed' },
    ]
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}
