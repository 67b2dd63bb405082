/** Drafts of captions by recognisers: what they are given, what of their answers is believed, and what happens when they break. */
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { fromInt16, rms, toDb, toInt16 } from '#core/audio/signal/pcm.ts'
import { Resampler } from '#core/audio/signal/resample.ts'
import { writeWav } from '#core/audio/signal/wav.ts'
import type { HeardWord, Probe } from '#core/captions/recognised/recogniser.ts'
import type { StoredCue } from '#core/model/caption.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { decodeFlac } from '#server/media/sound-files.ts'
import { runBounded } from '#server/speech/recognisers/bounded-process.ts'
import { demoFile, inWords, openTestApp, type TestApp } from '#tests/api/harness.ts'
import { madeTake, noise, seconds } from '#tests/made/sound.ts'
import { IS_LONG } from '#tests/support/long.ts'

const longTest = test.runIf(IS_LONG)

const folder = mkdtempSync(join(tmpdir(), 'lectern-recognisers-'))
const program = (name: string, body: string) => {
  const path = join(folder, name)
  writeFileSync(path, `#!/usr/bin/env node\n${body}`, { mode: 0o755 })
  return path
}
const opened: TestApp[] = []
afterAll(async () => {
  for (const app of opened) await app.end()
  rmSync(folder, { recursive: true, force: true })
})

async function open(recogniser?: string) {
  const app = await openTestApp(recogniser === undefined ? {} : { recogniser })
  opened.push(app)
  const lecture = await app.newLecture()
  const slideId = lecture.slides[0]!.id
  const ask = async () => {
    const { job } = (await (await app.ask(`/api/slides/${slideId}/recognition`, { method: 'POST' })).json()) as {
      job: { id: string }
    }
    return app.ended(job.id)
  }
  const cues = async (): Promise<StoredCue[]> =>
    (await app.read<Lecture>(`/api/lectures/${lecture.id}`)).captionTracks.find((t) => t.origin === 'script')!.cues
  const known = async () => (await app.read<{ recognisers: (Probe & { id: string })[] }>('/api/recognisers')).recognisers
  return { app, lecture, slideId, ask, cues, known }
}

/** What is said in a take of the demo. */
const SAID = JSON.parse(readFileSync('demo/files/lecture.json', 'utf8')).slides[6].script as string
/** Its first sentence, and where that has ended, seconds. */
const BRIEF = { said: SAID.split(/(?<=\.) /)[0]!, seconds: 4.65 }
const briefTake = async (own: { app: TestApp }) => (await spokenTake(own)).slice(0, seconds(BRIEF.seconds))
const spokenTake = async ({ app }: { app: TestApp }) => {
  const path = join(folder, 'spoken.flac')
  writeFileSync(path, demoFile('take-7a.flac'))
  return fromInt16(await decodeFlac(app.context.media, path))
}
const bare = (text: string) =>
  text
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, ' ')
    .trim()

describe('the practice recogniser', () => {
  let own: Awaited<ReturnType<typeof open>>
  beforeAll(async () => {
    own = await open('practice')
    await own.app.record(own.slideId, await spokenTake(own))
  })
  const inTrouble = async (trouble: string, value: string) => {
    process.env[trouble] = value
    try {
      return inWords((await own.ask()).error)
    } finally {
      delete process.env[trouble]
    }
  }

  test('its draft is timed by the voice, in sentences, and every caption of it waits to be checked', async () => {
    const job = await own.ask()
    expect(job).toMatchObject({ state: 'done', result: { note: null } })
    const made = await own.cues()
    expect(job.result).toMatchObject({ captions: made.length })
    expect(made.length).toBeGreaterThan(4)
    for (const cue of made) expect(cue).toMatchObject({ needsReview: true, manualEdit: 'heard', scriptText: '' })
    const [heard, said] = [bare(made.map((cue) => cue.text).join(' ')).split(' '), bare(SAID).split(' ')]
    expect(heard.filter((word) => said.includes(word)).length / said.length).toBeGreaterThan(0.85)
    // sentences begin with a capital and end with a full stop, where the voice rests
    expect(made[0]!.text.replace('\n', ' ')).toMatch(/^Seven weeks of small figures make one picture/)
    expect(made.filter((cue) => /\.$/.test(cue.text)).length).toBeGreaterThanOrEqual(3)
    const { analysis } = (await own.app.read<Lecture>(`/api/lectures/${own.lecture.id}`)).slides[0]!.takes[0]!
    expect(Math.abs(made[0]!.start - (analysis!.speech[0]!.start / 48_000 - 0.05))).toBeLessThan(0.1)
    // never a script before a person has made it one
    expect((await own.app.read<Lecture>(`/api/lectures/${own.lecture.id}`)).slides[0]!.script).toBe('')
    // and its words stand on the bench where they are heard, also those that were corrected
    const takeId = made[0]!.takeId!
    const { words, isTimed } = await own.app.read<{ words: { text: string; start: number; end: number }[]; isTimed: boolean }>(
      `/api/takes/${takeId}/words`,
    )
    expect(isTimed).toBe(true)
    expect(words.length).toBe(heard.length)
    expect(words[0]).toMatchObject({ text: 'Seven' })
    expect(words[0]!.start).toBeCloseTo(1, 1)
  })

  longTest('asked again it takes the place of what nobody has touched, and of nothing else', async () => {
    const before = await own.cues()
    const track = (await own.app.read<Lecture>(`/api/lectures/${own.lecture.id}`)).captionTracks.find(
      (t) => t.origin === 'script',
    )!
    const corrected = before.map(({ slideId: _, ...cue }, i) =>
      i === 1 ? { ...cue, text: 'Corrected by hand.', manualEdit: 'text', needsReview: false } : cue,
    )
    expect((await own.app.json('PUT', `/api/captions/${track.id}/slides/${own.slideId}`, { cues: corrected })).status).toBe(200)
    await own.ask()
    const after = await own.cues()
    expect(after.filter((cue) => cue.text === 'Corrected by hand.')).toHaveLength(1)
    // and nothing is heard twice where a caption was corrected
    expect(after.filter((cue) => cue.manualEdit === 'heard')).toHaveLength(before.length - 1)
  })

  test('sentences that are not in the sound are left out, which is told', async () => {
    const answer = join(folder, 'answer')
    writeFileSync(answer, `${SAID} The committee agreed to postpone its meeting until Thursday.`)
    process.env.LECTERN_PRACTICE_ANSWER = answer
    const job = await own.ask()
    delete process.env.LECTERN_PRACTICE_ANSWER
    expect(job.state).toBe('done')
    expect(inWords((job.result as { note?: never } | null)?.note)).toBe(
      'One sentence of the recogniser is not in the sound and was left out.',
    )
    expect((await own.cues()).some((cue) => cue.text.includes('committee'))).toBe(false)
  })

  longTest('one that breaks is told in a sentence, and nothing is captioned', async () => {
    await own.app.record(own.slideId, await briefTake(own))
    const before = await own.cues()
    expect(await inTrouble('LECTERN_PRACTICE_TROUBLE', 'crash')).toContain('The recogniser broke off')
    expect(await inTrouble('LECTERN_PRACTICE_TROUBLE', 'no model')).toContain('the model file is not one')
    expect(await inTrouble('LECTERN_PRACTICE_TROUBLE', 'endless')).toContain('printed without end')
    expect(await own.cues()).toEqual(before)
  })

  longTest('words that are not what is said are not taken, and captions and plain text are', async () => {
    const answer = join(folder, 'answer')
    const before = await own.cues()
    writeFileSync(
      answer,
      'The committee agreed to postpone its meeting until Thursday. Nobody objected to the minutes of the treasurer.',
    )
    expect(await inTrouble('LECTERN_PRACTICE_ANSWER', answer)).toContain('is not what is said in this recording')
    expect(await own.cues()).toEqual(before)
    writeFileSync(answer, 'WEBVTT\n\n00:01.000 --> 00:04.000\nSeven weeks of small figures make one picture.\n')
    process.env.LECTERN_PRACTICE_ANSWER = answer
    expect((await own.ask()).state).toBe('done')
    delete process.env.LECTERN_PRACTICE_ANSWER
    writeFileSync(answer, '{"protocol":1,"words":"none"}')
    expect(await inTrouble('LECTERN_PRACTICE_ANSWER', answer)).toContain('heard no words')
    writeFileSync(answer, ' \n')
    expect(await inTrouble('LECTERN_PRACTICE_ANSWER', answer)).toContain('heard no words')
  })
})

test('a program goes over no bound, and what it has started ends with it', async () => {
  const bounds = { seconds: 20, memoryBytes: 3e8, outputBytes: 1e6 }
  const practice = ['dist/server/recogniser-practice.js', 'sound.wav']
  const inTrouble = { LECTERN_PRACTICE_TROUBLE: 'memory' }
  expect(await runBounded(process.execPath, practice, bounds, undefined, inTrouble)).toEqual({ over: 'memoryBytes' })
  const hanging = { LECTERN_PRACTICE_TROUBLE: 'hang' }
  expect(await runBounded(process.execPath, practice, { ...bounds, seconds: 1 }, undefined, hanging)).toEqual({ over: 'seconds' })
  const pidFile = join(folder, 'pid')
  const parent = program(
    'parent',
    `const { spawn } = require('node:child_process')
require('node:fs').writeFileSync(${JSON.stringify(pidFile)}, String(spawn('sleep', ['600']).pid))
setInterval(() => {}, 1000)`,
  )
  const cancel = new AbortController()
  const cancelled = runBounded(parent, [], bounds, cancel.signal)
  await expect.poll(() => existsSync(pidFile)).toBe(true)
  await new Promise((resolve) => setTimeout(resolve, 50))
  cancel.abort(new Error('cancelled'))
  await expect(cancelled).rejects.toThrow('cancelled')
  await expect.poll(() => existsSync(`/proc/${readFileSync(pidFile, 'utf8')}/exe`)).toBe(false)
  // one that ends and leaves another behind, which holds its output open
  const leaving = program(
    'leaving',
    "require('node:child_process').spawn('sleep', ['600'], { stdio: 'inherit' }).unref(); console.log('words')",
  )
  expect(await runBounded(leaving, [], bounds)).toMatchObject({ over: null, code: 0, stdout: Buffer.from('words\n') })
  await expect(runBounded(join(folder, 'nothing'), [], bounds)).rejects.toMatchObject({ code: 'ENOENT' })
})

describe('a program that an administrator has named', () => {
  /** Keeps what it was given, and answers with captions. */
  const plain = `const { copyFileSync, writeFileSync } = require('node:fs')
if (process.argv.includes('--probe')) process.exit(2)
writeFileSync(__dirname + '/arguments', process.argv.slice(2).join(' '))
copyFileSync(process.argv.at(-1), __dirname + '/heard.wav')
console.log(${JSON.stringify(`WEBVTT\n\n00:00.500 --> 00:04.500\n${BRIEF.said}\n`)})`

  longTest('is given tidied sound as long as the take, at 16 kHz, and a language', async () => {
    const own = await open(program('plain', plain))
    expect((await own.known())[0]).toMatchObject({ id: 'program', isReady: true, languages: null })
    const samples = await briefTake(own)
    await own.app.record(own.slideId, samples)
    expect((await own.ask()).state).toBe('done')
    expect(readFileSync(join(folder, 'arguments'), 'utf8')).toMatch(/^--language en \S+\.wav$/)
    const wav = readFileSync(join(folder, 'heard.wav'))
    expect(wav.readUInt32LE(24)).toBe(16_000)
    const heard = fromInt16(new Int16Array(wav.buffer.slice(wav.byteOffset + 44, wav.byteOffset + wav.length)))
    expect(heard.length).toBe(Math.floor(samples.length / 3))
    // 1.0 to 1.4 s is a word, 0.2 to 0.6 s the room
    const room = (sound: Float32Array, rate: number) =>
      toDb(rms(sound, 1.0 * rate, 1.4 * rate)) - toDb(rms(sound, 0.2 * rate, 0.6 * rate))
    expect(room(heard, 16_000)).toBeGreaterThan(room(samples, 48_000) + 15)
  })

  test('that knows the protocol is told where somebody speaks and what stands on the slide', async () => {
    const path = program(
      'knowing',
      `const { readFileSync, writeFileSync } = require('node:fs')
const at = process.argv.indexOf('--context')
if (at < 0) console.log(JSON.stringify({ protocol: 1, name: 'Knowing', languages: ['en'], isReady: true }))
else {
  writeFileSync(__dirname + '/context', readFileSync(process.argv[at + 1]))
  console.log(${JSON.stringify(BRIEF.said)})
}`,
    )
    const own = await open(path)
    await own.app.record(own.slideId, await briefTake(own))
    await own.app.json('PATCH', `/api/slides/${own.lecture.slides[1]!.id}`, { script: 'Words of another slide.' })
    expect((await own.known())[0]).toMatchObject({ name: 'Knowing', languages: ['en'] })
    expect((await own.ask()).state).toBe('done')
    const context = JSON.parse(readFileSync(join(folder, 'context'), 'utf8'))
    expect(context).toMatchObject({ protocol: 1, lecture: expect.stringContaining('Words of another slide.') })
    expect(context.slide).toContain(own.lecture.slides[0]!.title)
    expect(context.stretches[0].start).toBeCloseTo(1, 1)
    // another language than it hears
    await own.app.json('PATCH', `/api/slides/${own.slideId}`, { language: 'fr' })
    expect(inWords((await own.ask()).error)).toContain('No recogniser here hears this language')
  })

  test('that is not there is told, and room or music without a voice is not sent to one', async () => {
    const own = await open(join(folder, 'nowhere'))
    expect((await own.known())[0]).toMatchObject({ isReady: false, missing: expect.stringContaining('not there') })
    const other = await open(program('plain again', plain))
    await other.app.record(other.slideId, noise(0.003, seconds(3), 5))
    expect(inWords((await other.ask()).error)).toContain('Nobody speaks')
    expect(await other.cues()).toEqual([])
  })
})

test('a model in the data folder is shown with what it still needs', async () => {
  const app = await openTestApp()
  opened.push(app)
  const model = join(app.dataFolder, 'models/small-english')
  mkdirSync(model, { recursive: true })
  writeFileSync(join(model, 'tokens.txt'), 'a 0\n')
  writeFileSync(join(model, 'encoder.onnx'), 'no model')
  const one = async () =>
    (await app.read<{ recognisers: (Probe & { id: string })[] }>('/api/recognisers')).recognisers.find((r) =>
      r.id.startsWith('model'),
    )!
  const found = await one()
  expect(found).toMatchObject({ name: 'small-english', isReady: false, missing: expect.stringContaining('not whole') })
  expect(found.files).toContainEqual({
    name: 'encoder.onnx',
    bytes: 8,
    // sha256sum of the eight letters
    sha256: expect.stringMatching(/^[0-9a-f]{64}$/),
  })
})

test('a whole model without the library that runs it says which, and one that is a wrong file breaks off in a sentence', async () => {
  const app = await openTestApp()
  opened.push(app)
  const model = join(app.dataFolder, 'models/whole')
  mkdirSync(model, { recursive: true })
  for (const name of ['tokens.txt', 'encoder.onnx', 'decoder.onnx', 'joiner.onnx']) writeFileSync(join(model, name), 'no model')
  const known = async () => (await app.read<{ recognisers: (Probe & { id: string })[] }>('/api/recognisers')).recognisers
  expect((await known()).find((r) => r.id === 'model whole')).toMatchObject({
    missing: expect.stringContaining('npm install sherpa-onnx-node'),
  })
  // a stand-in for the library: it refuses the files as the real one does
  const runtime = join(app.dataFolder, 'models/node_modules/sherpa-onnx-node')
  mkdirSync(runtime, { recursive: true })
  writeFileSync(join(runtime, 'package.json'), '{"name":"sherpa-onnx-node","main":"index.js"}')
  writeFileSync(
    join(runtime, 'index.js'),
    `exports.OfflineRecognizer = class { constructor(config) { throw new Error('Please check your config: ' + config.modelConfig.tokens) } }`,
  )
  const args = ['dist/server/recogniser-model.js', '--model', model]
  const bounds = { seconds: 20, memoryBytes: 1e9, outputBytes: 1e6 }
  const probe = await runBounded(process.execPath, [...args, '--probe'], bounds)
  expect(probe).toMatchObject({ over: null, code: 0 })
  expect(JSON.parse((probe as { stdout: Buffer }).stdout.toString())).toMatchObject({ isReady: true, missing: '' })
  const sound = join(folder, 'short.wav')
  writeFileSync(sound, Buffer.alloc(44 + 32_000))
  const ended = await runBounded(process.execPath, [...args, '--language', 'en', sound], bounds)
  expect(ended).toMatchObject({ over: null, code: 1, stderr: expect.stringContaining('Please check your config') })
})

longTest('one that prints nothing has heard no words, and that is said', async () => {
  const own = await open(program('silent', `console.log('')`))
  await own.app.record(own.slideId, madeTake().samples)
  expect(inWords((await own.ask()).error)).toContain('heard no words')
})

test.runIf(existsSync('/usr/bin/pocketsphinx_batch'))(
  'Debian’s pocketsphinx drafts English, and is told the words of the slide',
  async () => {
    const own = await open()
    expect((await own.known()).find((r) => r.id === 'pocketsphinx')).toMatchObject({ isReady: true, languages: ['en'] })
    await own.app.record(own.slideId, await briefTake(own))
    const job = await own.ask()
    // a made-up voice is understood badly: a draft, or a sentence that says why there is none
    expect(job.state === 'done' || inWords(job.error)?.includes('is not what is said')).toBe(true)
    // some of its words are understood all the same, where they are said, and a word of the slide is one it can hear
    const sound = join(folder, 'brief.wav')
    const sixteen = new Resampler(48_000, 16_000).push(await briefTake(own))
    writeFileSync(sound, writeWav(toInt16(sixteen), 16_000))
    const context = join(folder, 'told.json')
    writeFileSync(
      context,
      JSON.stringify({ protocol: 1, stretches: [{ start: 0.9, end: 4.5 }], slide: 'unmute cirrostratus', lecture: '' }),
    )
    const args = ['dist/server/recogniser-pocketsphinx.js', '--language', 'en', '--context', context, sound]
    const ended = await runBounded(process.execPath, args, { seconds: 120, memoryBytes: 2e9, outputBytes: 1e6 })
    const { words } = JSON.parse((ended as { stdout: Buffer }).stdout.toString()) as { words: HeardWord[] }
    const heard = new Map(words.map((word) => [word.text, word]))
    expect(['small', 'one', 'picture'].filter((word) => heard.has(word)).length).toBeGreaterThanOrEqual(2)
    expect(heard.get('small')!.start).toBeCloseTo(2.15, 0)
  },
)
