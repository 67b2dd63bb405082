/** The command line and its files: nothing given is overwritten, nothing is dropped without a word, and what ends a name says what is written. */
import { spawnSync } from 'node:child_process'
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { toInt16 } from '#core/audio/signal/pcm.ts'
import { writeWav } from '#core/audio/signal/wav.ts'
import { demoFile, workers } from '#tests/api/harness.ts'
import { madeTake } from '#tests/made/sound.ts'
import { built, lectern as call } from '#tests/support/cli.ts'
import { IS_LONG } from '#tests/support/long.ts'

const longTest = test.runIf(IS_LONG)

const root = join(import.meta.dirname, '../../..')
const folder = mkdtempSync(join(tmpdir(), 'lectern-files-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))
const at = (...names: string[]) => join(folder, ...names)
const lectern = (...words: string[]) => call(words, { cwd: folder, workers })
const voice = (seed = 1) => writeWav(toInt16(madeTake({ seed }).samples), 48_000)
const formatOf = (path: string) =>
  spawnSync('ffprobe', ['-v', 'error', '-show_entries', 'format=format_name', '-of', 'csv=p=0', path])
    .stdout.toString()
    .trim()
    .replaceAll('"', '')

beforeAll(() => {
  writeFileSync(at('take.wav'), voice())
  writeFileSync(at('script.txt'), 'Clouds have names. High ones are thin and white.')
})

describe('results', () => {
  test('a recording is not overwritten by its own tidying, by another path neither, unless it is said', async () => {
    const before = readFileSync(at('take.wav'))
    symlinkSync(at('take.wav'), at('other name.wav'))
    for (const output of ['take.wav', './take.wav', at('other name.wav')]) {
      const { status, stderr } = await lectern('tidy', 'take.wav', '-o', output)
      expect(status).toBe(1)
      expect(stderr).toMatch(/is what you gave; what comes of it would take its place/)
    }
    expect(readFileSync(at('take.wav')).equals(before)).toBe(true)
    writeFileSync(at('mine.wav'), before)
    expect((await lectern('tidy', 'mine.wav', '-o', 'mine.wav', '--overwrite')).status).toBe(0)
    expect(readFileSync(at('mine.wav')).equals(before)).toBe(false)
  })
  longTest('what ends the name says what is written', async () => {
    for (const [ending, format] of [
      ['mp3', 'mp3'],
      ['flac', 'flac'],
      ['m4a', 'mov,mp4,m4a,3gp,3g2,mj2'],
    ] as const) {
      expect((await lectern('tidy', 'take.wav', '-o', `out.${ending}`)).status).toBe(0)
      expect(formatOf(at(`out.${ending}`))).toBe(format)
    }
    expect(await lectern('tidy', 'take.wav', '-o', 'out.xyz')).toMatchObject({
      status: 2,
      stderr: expect.stringContaining('must end in .wav'),
    })
    expect((await lectern('align', 'take.wav', 'script.txt', '-o', 'out.srt')).status).toBe(0)
    expect(readFileSync(at('out.srt'), 'utf8')).toMatch(/^1\r?\n00:00:0\d,\d\d\d -->/)
    expect((await lectern('align', 'take.wav', 'script.txt', '-o', 'out.doc')).status).toBe(2)
    expect(readdirSync(folder).filter((name) => name.endsWith('.part'))).toEqual([])
  })
  longTest('- is standard output, and what is said goes elsewhere', async () => {
    const sound = built(['tidy', 'take.wav', '-o', '-'], { cwd: folder })
    expect(sound.bytes.subarray(0, 4).toString()).toBe('RIFF')
    expect(sound.stderr).toMatch(/Loudness/)
    const captions = await lectern('align', 'take.wav', 'script.txt', '-o', '-')
    expect(captions.stdout).toMatch(/^WEBVTT\n/)
    expect(existsSync(at('-'))).toBe(false)
  })
  test('a folder that is missing is said in a sentence', async () => {
    for (const args of [
      ['tidy', 'take.wav', '-o', 'nowhere/out.wav'],
      ['align', 'take.wav', 'script.txt', '-o', 'nowhere/out.vtt'],
      ['captions', 'convert', 'script.txt', 'nowhere/out.vtt'],
      ['export', 'x', '-o', 'nowhere/x.zip'],
      ['make', folder, '-o', 'nowhere/out.mp4'],
    ])
      expect(await lectern(...args)).toMatchObject({
        status: 1,
        stderr: 'There is no folder “nowhere”. Make it first, or name another.\n',
      })
  })
  test('help and refusals are in the language of whoever calls, and in English where that is none of ours', () => {
    const help = (locale: string) => built(['--help'], { env: { LC_ALL: locale } }).stdout
    expect(help('de_AT.UTF-8')).toContain('lectern tidy         eine Aufnahme: säubern, kürzen, aussteuern\n')
    expect(help('ar')).toContain('تسجيل واحد: تنظيف وقص وتسوية')
    expect(help('it_IT.UTF-8')).toBe(help('C'))
    const refused = built(['captions', 'check', 'nowhere.vtt'], { env: { LC_ALL: 'fr_FR.UTF-8' } })
    expect(refused).toMatchObject({
      status: 1,
      stderr: 'Il n’y a pas de fichier « nowhere.vtt ». Vérifiez son nom et son dossier.\n',
    })
  })

  test('--help is no mistake', async () => {
    for (const args of [
      ['--help'],
      ['tidy', '--help'],
      ['make', '-h'],
      ['captions', '--help'],
      ['split', '--help'],
      ['found-again', '--help'],
    ]) {
      // as a program of its own once; the others without the start of one
      const { status, stdout, stderr } = args.length === 1 ? built(args, { cwd: folder }) : await lectern(...args)
      expect([args, status, stderr]).toEqual([args, 0, ''])
      expect(stdout).toMatch(/^Usage: lectern/)
    }
    const shell = spawnSync('bash', [join(root, 'lectern'), '--help'], { encoding: 'utf8' })
    expect(shell).toMatchObject({ status: 0, stderr: '' })
    expect(shell.stdout).toMatch(/^Usage: .\/lectern demo/)
  })
})

describe('captions and marks that are not right', () => {
  test('check and convert end with 1 and say what is wrong; the rest is converted', async () => {
    writeFileSync(at('bad.vtt'), 'WEBVTT\n\n00:00.000 --> 00:01.000\nGood.\n\n00:0x.000 --> 00:03.000\nBad.\n')
    const checked = await lectern('captions', 'check', 'bad.vtt')
    expect(checked.status).toBe(1)
    expect(checked.stdout).toMatch(/line 6/)
    expect((await lectern('captions', 'check', 'bad.vtt', '--json')).status).toBe(1)
    const converted = await lectern('captions', 'convert', 'bad.vtt', 'good.srt')
    expect(converted.status).toBe(1)
    expect(converted.stderr).toMatch(/is not right in 1 place; the rest was written/)
    expect(readFileSync(at('good.srt'), 'utf8')).toContain('Good.')
    expect(await lectern('captions', 'convert', 'bad.vtt', 'bad.vtt')).toMatchObject({
      status: 1,
      stderr: expect.stringContaining('is what you gave'),
    })
  })
  test('marks past the end of a recording are refused', async () => {
    const { status, stderr, stdout } = await lectern('split', 'take.wav', '--marks', '1,500')
    expect(status).toBe(1)
    expect(stderr).toMatch(/The recording is [\d.]+ s long, and a mark is at 500 s/)
    expect(stdout).toBe('')
  })
  test('a sound that ends early is said', async () => {
    writeFileSync(at('half.wav'), voice().subarray(0, 200_000))
    const { stderr, status } = await lectern('tidy', 'half.wav', '-o', 'whole.wav')
    expect(status).toBe(0)
    expect(stderr).toMatch(/“half.wav” ends early/)
  })
})

describe('make', () => {
  longTest('works again and again in its own folder, named otherwise too; what it wrote is nothing that it reads', async () => {
    mkdirSync(at('talk'))
    writeFileSync(at('talk', 'deck.pdf'), demoFile('clouds-by-their-shapes.pdf'))
    writeFileSync(at('talk', 'slide 1.wav'), voice())
    const first = await lectern('make', 'talk', '-o', 'talk/talk.mp4', '--json')
    expect(first).toMatchObject({ status: 0, stderr: '' })
    expect(built(['make', 'talk', '-o', 'talk/talk.mp4'], { cwd: folder })).toMatchObject({ status: 0, stderr: '' })
    // under another name: the old video is no narration, the old manifest no deck
    expect(await lectern('make', 'talk', '-o', 'talk/new.mp4')).toMatchObject({ status: 0, stderr: '' })
    const chapters = (name: string) =>
      (JSON.parse(readFileSync(at('talk', name), 'utf8')) as { chapters: { loudnessLufs: number | null }[] }).chapters
    expect(chapters('new.json').map((chapter) => chapter.loudnessLufs !== null)).toEqual([true, false, false, false])
    expect(chapters('new.json')).toHaveLength(4)
    // a video that somebody put there is not written over
    writeFileSync(at('talk', 'mine.mp4'), 'a film')
    expect(await lectern('make', 'talk', '-o', 'talk/mine.mp4')).toMatchObject({
      status: 1,
      stderr: expect.stringContaining('no earlier run wrote it'),
    })
    expect(readFileSync(at('talk', 'mine.mp4'), 'utf8')).toBe('a film')
  })

  longTest(
    'sounds go to the pictures of their numbers; what finds no slide is named, and nothing is made until it is allowed',
    async () => {
      mkdirSync(at('pictures'))
      for (const [i, n] of [1, 2, 3, 9, 10, 11].entries())
        await sharp({ create: { width: 1280, height: 720, channels: 3, background: { r: 40 * i, g: 90, b: 120 } } })
          .png()
          .toFile(at('pictures', `${n}.png`))
      for (const [name, seed] of [
        ['1.wav', 1],
        ['9.wav', 2],
        ['10.wav', 3],
      ] as const)
        writeFileSync(at('pictures', name), voice(seed))
      writeFileSync(at('pictures', 'music.wav'), voice(4))
      const refused = await lectern('make', 'pictures', '-o', 'pictures.mp4', '--json', '--no-cache')
      expect(refused.status).toBe(1)
      expect(refused.stderr).toMatch(/For “music.wav” there is no slide/)
      expect(JSON.parse(refused.stdout.trim().split('\n').at(-1)!)).toMatchObject({ unmatched: ['music.wav'] })
      expect(existsSync(at('pictures.mp4'))).toBe(false)
      const made = await lectern('make', 'pictures', '-o', 'pictures.mp4', '--json', '--no-cache', '--allow-unmatched')
      expect(made.status).toBe(0)
      expect(made.stderr).toMatch(/Left out, for there is no slide: “music.wav”/)
      const { chapters } = JSON.parse(readFileSync(at('pictures.json'), 'utf8')) as {
        chapters: { loudnessLufs: number | null }[]
      }
      expect(chapters.map((chapter) => chapter.loudnessLufs !== null)).toEqual([true, false, false, true, true, false])
    },
  )

  test('a folder whose name has signs of addresses is a folder like any other', async () => {
    const name = 'week #3? 100%'
    mkdirSync(at(name))
    writeFileSync(at(name, 'deck.md'), '# One\n\nA line.')
    expect(await lectern('make', name, '-o', `${name}/out.mp4`)).toMatchObject({ status: 0, stderr: '' })
    expect(existsSync(at(name, '.lectern', 'lectern.sqlite'))).toBe(true)
  })
})
