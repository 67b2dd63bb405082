/** Films of every kind of camera and program, and files that are none: what becomes of each, and what is said. */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, statSync, truncateSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import type { Lecture } from '#core/model/lecture.ts'
import type { Film } from '#core/model/moving/film.ts'
import { animationRate } from '#server/media/films/convert-film.ts'
import { shownRate } from '#server/media/films/probe-film.ts'
import { file, inWords, openTestApp, type TestApp } from '#tests/api/harness.ts'
import { IS_LONG } from '#tests/support/long.ts'

const longTest = test.runIf(IS_LONG)

let app: TestApp
let folder: string
let lecture: Lecture
beforeAll(async () => {
  app = await openTestApp()
  folder = mkdtempSync(join(tmpdir(), 'lectern-odd-films-'))
  lecture = await app.newLecture()
})
afterAll(async () => {
  rmSync(folder, { recursive: true, force: true })
  await app.end()
})

function make(name: string, ...args: string[]): string {
  const path = join(folder, name)
  execFileSync('ffmpeg', ['-v', 'error', '-y', ...args, path])
  return path
}
const source = (size: string, rate: string, seconds: number) => ['-f', 'lavfi', '-i', `testsrc2=s=${size}:r=${rate}:d=${seconds}`]
const H264 = ['-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p']

/** What became of a film that was dropped, or what was said of the request. */
async function dropped(name: string, content: Uint8Array | string): Promise<Film | string> {
  const form = new FormData()
  form.append('file', file(name, content))
  const answer = await app.ask(`/api/slides/${lecture.slides[0]!.id}/films`, { method: 'POST', body: form })
  const body = (await answer.json()) as { filmId?: string; job?: { id: string }; error?: string }
  if (!body.job) return body.error!
  await app.ended(body.job.id)
  const now = await app.read<Lecture>(`/api/lectures/${lecture.id}`)
  return now.slides[0]!.steps[0]!.films.find(({ id }) => id === body.filmId)!
}
const film = async (path: string) => (await dropped(path.split('/').at(-1)!, readFileSync(path))) as Film
const notes = (found: Film) => found.shown!.notes.map(inWords)

describe('films of cameras and programs', () => {
  test('one that was turned stands upright', async () => {
    const lying = make('lying.mp4', ...source('320x180', '25', 1), ...H264)
    const turned = make('turned.mp4', '-i', lying, '-c', 'copy', '-metadata:s:v:0', 'rotate=90')
    expect((await film(turned)).shown).toMatchObject({ width: 180, height: 320, frames: 25 })
  })
  test('pixels that are not square become square, and odd sizes even', async () => {
    const wide = make('wide.mp4', ...source('360x288', '25', 1), '-vf', 'setsar=64/45', ...H264)
    expect((await film(wide)).shown).toMatchObject({ width: 512, height: 288 })
    const odd = make('odd.avi', ...source('321x181', '25', 1), '-c:v', 'mjpeg', '-pix_fmt', 'yuvj444p')
    const { width, height } = (await film(odd)).shown!
    expect([width % 2, height % 2]).toEqual([0, 0])
    expect(Math.max(Math.abs(width - 321), Math.abs(height - 181))).toBeLessThanOrEqual(1)
  })
  longTest('a large one is made as large as it is shown, and a quick one as quick, which is said', async () => {
    const quick = await film(make('quick.mp4', ...source('2560x1440', '60', 1), ...H264))
    expect(quick.shown).toMatchObject({ width: 1920, height: 1080, rate: [60, 2], frames: 30 })
    expect(notes(quick)).toEqual(['It has 60 frames a second. Every edition shows 30 of them.'])
  })
  test('frames at changing distances get one rate, which is said, and what is seen when stays', async () => {
    const steady = make('steady.mp4', ...source('320x180', '20', 4), ...H264)
    // every third of the first two seconds is left out, and one second altogether
    const select = "select='not(eq(mod(n,3),2))*lt(t,2)+gt(t,3)'"
    const uneven = await film(make('uneven.mp4', '-i', steady, '-vf', select, '-fps_mode', 'vfr', ...H264))
    expect(uneven.shown!.rate).toEqual([30, 1])
    expect(uneven.shown!.frames).toBeGreaterThanOrEqual(117)
    expect(uneven.shown!.frames).toBeLessThanOrEqual(121)
    expect(notes(uneven)).toEqual(['Its frames came at changing distances. It is shown with 30 frames a second.'])
  })
  test('brightness that no usual screen shows is brought into what all do, which is said', async () => {
    const hdr = ['-pix_fmt', 'yuv420p10le', '-color_primaries', 'bt2020', '-color_trc', 'smpte2084', '-colorspace', 'bt2020nc']
    const x264 = ['-x264-params', 'colorprim=bt2020:transfer=smpte2084:colormatrix=bt2020nc']
    const bright = await film(
      make('bright.mp4', ...source('320x180', '25', 1), '-c:v', 'libx264', '-preset', 'ultrafast', ...x264, ...hdr),
    )
    expect(bright.shown!.frames).toBe(25)
    expect(notes(bright)).toEqual([
      'Its colours are brighter than a usual screen shows (HDR). They were brought into what all screens show.',
    ])
  })
  test.each<[string, string[]]>([
    ['old.wmv', ['-c:v', 'wmv2', '-c:a', 'wmav2']],
    ['tape.mpg', ['-c:v', 'mpeg2video', '-c:a', 'mp2']],
    ['box.ts', [...H264, '-c:a', 'aac', '-f', 'mpegts']],
    ['phone.mov', [...H264, '-c:a', 'aac']],
    ['web.flv', ['-c:v', 'flv', '-c:a', 'libmp3lame', '-ar', '44100']],
    ['free.ogv', ['-c:v', 'libtheora', '-c:a', 'libvorbis']],
  ])('%s is shown with its picture and its sound', async (name, codec) => {
    const sound = ['-f', 'lavfi', '-i', 'sine=f=440:d=2']
    const found = await film(make(name, ...source('320x240', '25', 2), ...sound, ...codec))
    expect(found.problem).toBeNull()
    expect(Math.abs(found.shown!.frames - 50)).toBeLessThanOrEqual(2)
    expect(found.shown!.sound).not.toBeNull()
  })
  longTest('a moving picture is shown no larger than a film, each of its pictures for as long as it says', async () => {
    const colours = ['#ff0000', '#00ff00', '#0000ff']
    const moving = async (name: string, size: { width: number; height: number }, delay: number[]) => {
      const pictures = delay.map((_, i) => {
        const picture = sharp({ create: { ...size, channels: 3, background: colours[i % 3]! } })
        return picture.png().toBuffer()
      })
      const joined = sharp(await Promise.all(pictures), { join: { animated: true } })
      const kind = name.endsWith('gif') ? 'gif' : 'webp'
      return (await dropped(name, await joined.toFormat(kind, { delay, loop: 0 }).toBuffer())) as Film
    }
    const found = await moving('large.gif', { width: 2400, height: 1350 }, [100, 300, 200])
    expect(found.shown).toMatchObject({ width: 1920, height: 1080, rate: [10, 1], frames: 6 })
    const long = await moving('slow.webp', { width: 16, height: 16 }, Array(28).fill(65_000))
    expect(inWords(long.problem)).toBe(
      '“slow.webp” is longer than 30 minutes, the most that a film on a slide may be. Cut it first.',
    )
  })
  test('rates of moving pictures: the least at which each begins where it should', () => {
    expect(animationRate([200, 200])).toEqual([5, 1])
    expect(animationRate([120, 80])).toEqual([25, 1])
    expect(animationRate([70, 70])).toEqual([100, 7])
    expect(animationRate([2000, 3000])).toEqual([1, 1])
    expect(animationRate([1500, 1500])).toEqual([4, 3])
    expect(animationRate([30, 70])).toEqual([25, 1])
  })
  test('a sound that goes on after the last picture is heard to its end', async () => {
    const sound = ['-f', 'lavfi', '-i', 'sine=f=440:d=3']
    const found = await film(make('long-sound.mp4', ...source('320x180', '25', 2), ...sound, ...H264, '-c:a', 'aac'))
    expect(found.shown!.frames / 25).toBeGreaterThan(2.9)
  })
  test('rates that are shown: as they are up to thirty, of quicker ones an even share', () => {
    expect(shownRate([24_000, 1001], [24_000, 1001]).rate).toEqual([24_000, 1001])
    expect(shownRate([50, 1], [50, 1]).rate).toEqual([50, 2])
    expect(shownRate([60_000, 1001], [60_000, 1001]).rate).toEqual([60_000, 2002])
    expect(shownRate([240, 1], [240, 1]).rate).toEqual([240, 8])
    expect(shownRate([144, 1], [144, 1]).rate).toEqual([30, 1])
    expect(shownRate([0, 0], [0, 0]).rate).toEqual([30, 1])
  })
})

describe('files that are no film', () => {
  const unknown = (name: string) =>
    `“${name}” is no film that is known here, whatever its name says. Export it as MP4 and add that.`
  test.each([
    ['playlist.mp4', '#EXTM3U\n#EXTINF:1,\nfile:///etc/passwd\n'],
    ['list.mov', "ffconcat version 1.0\nfile '/etc/passwd'\n"],
    ['empty.mp4', ''],
    ['text.avi', 'words and words'],
  ])('%s reads nothing and gets a sentence', async (name, content) => {
    const said = await dropped(name, content)
    expect([unknown(name), `“${name}” is empty (0 bytes). Save or download it again and add it once more.`]).toContain(said)
  })
  test('a sound has no picture, and one picture does not move', async () => {
    const sound = await film(make('only.m4a', '-f', 'lavfi', '-i', 'sine=d=1', '-c:a', 'aac'))
    expect(inWords(sound.problem)).toBe(
      '“only.m4a” has no moving picture in it. A sound alone is dropped on a slide as its recording.',
    )
    const still = await film(make('still.gif', '-f', 'lavfi', '-i', 'color=red:s=64x36', '-frames:v', '1'))
    expect(inWords(still.problem)).toBe('“still.gif” holds one picture and nothing that moves. Add it as a picture instead.')
  })
  test('one without its table of contents cannot be read; of one that is broken off its beginning is shown, and that is said', async () => {
    const whole = make('whole.mp4', ...source('320x180', '25', 4), ...H264)
    truncateSync(whole, Math.round(statSync(whole).size / 2))
    expect(inWords((await film(whole)).problem)).toMatch(/^“whole.mp4” cannot be read as a film; it may be damaged or broken off/)
    const broken = make('broken.mp4', ...source('320x180', '25', 8), ...H264, '-movflags', '+faststart')
    truncateSync(broken, Math.round(statSync(broken).size / 2))
    const found = await film(broken)
    expect(found.shown!.frames).toBeGreaterThan(50)
    expect(found.shown!.frames).toBeLessThan(180)
    expect(notes(found)[0]).toMatch(/^Only its first [\d.]+ seconds could be read; it may be damaged\.$/)
  })
  test('one that is too long is told how long it may be', async () => {
    const long = await film(make('long.mp4', ...source('64x36', '1', 1900), ...H264))
    expect(inWords(long.problem)).toBe(
      '“long.mp4” is longer than 30 minutes, the most that a film on a slide may be. Cut it first.',
    )
  })
  test('nobody changes a film to one that ends before it begins, or puts one on a slide that is not there', async () => {
    const found = await film(make('short.mp4', ...source('64x36', '25', 2), ...H264))
    const refused = await app.json('PATCH', `/api/films/${found.id}`, { fromSeconds: 1.5, toSeconds: 1 })
    expect(refused.status).toBe(422)
    expect((await app.json('PATCH', '/api/films/nothing', { loops: true })).status).toBe(404)
    const form = new FormData()
    form.append('file', file('short.mp4', readFileSync(join(folder, 'short.mp4'))))
    expect((await app.ask('/api/slides/nothing/films', { method: 'POST', body: form })).status).toBe(404)
  })
})
