/** The command line as people call it: the built command, real files, exit codes. */
import { execFileSync } from 'node:child_process'
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, describe, expect, test } from 'vitest'
import { heardLoudness } from '#core/audio/loudness/loudness.ts'
import { truePeak } from '#core/audio/loudness/true-peak.ts'
import { fromInt16, rms, toDb, toInt16 } from '#core/audio/signal/pcm.ts'
import { writeWav } from '#core/audio/signal/wav.ts'
import { madeTake, noise, seconds } from '#tests/made/sound.ts'
import { built, lectern as call } from '#tests/support/cli.ts'

const folder = mkdtempSync(join(tmpdir(), 'lectern-cli-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))
const at = (name: string) => join(folder, name)
const file = (name: string, content: string) => {
  writeFileSync(at(name), content)
  return at(name)
}
const wav = (name: string, samples: Float32Array, rate = 48_000) => {
  writeFileSync(at(name), writeWav(toInt16(samples), rate))
  return at(name)
}
const lectern = (...words: string[]) => call(words)
const samplesOf = (file: string) => {
  const bytes = readFileSync(file)
  expect([bytes.readUInt32LE(24), bytes.readUInt16LE(22), bytes.readUInt16LE(34)]).toEqual([48_000, 1, 16])
  return fromInt16(new Int16Array(bytes.buffer.slice(bytes.byteOffset + 44, bytes.byteOffset + bytes.length)))
}

describe('a recording', () => {
  const { samples, phrases } = madeTake({ room: 0.005 })
  const input = wav('take.wav', samples)

  test('comes out trimmed, clean and level, and what was found is told', async () => {
    const { status, stdout } = built(['tidy', input, '-o', at('out.wav'), '--json'])
    expect(status).toBe(0)
    const told = JSON.parse(stdout)
    expect(told.speech).toHaveLength(2)
    expect(Math.abs(told.speech[0].start - phrases[0]!.start)).toBeLessThan(0.1)
    expect(told.noiseFloorDb.after).toBeLessThan(told.noiseFloorDb.before - 15)
    const out = samplesOf(at('out.wav'))
    expect(out.length / 48_000).toBeCloseTo(told.kept[0].end - told.kept[0].start, 4)
    expect(Math.abs(heardLoudness(out) + 16)).toBeLessThan(0.3)
    expect(truePeak(out)).toBeLessThanOrEqual(-0.95)
    expect(existsSync(`${at('out.wav')}.part`)).toBe(false)
  })
  test('keeps its length and loudness when asked to', async () => {
    expect((await lectern('tidy', input, '-o', at('same.wav'), '--keep-length', '--no-level')).status).toBe(0)
    const out = samplesOf(at('same.wav'))
    expect(out.length).toBe(samples.length)
    const voice = (x: Float32Array) => toDb(rms(x, seconds(1.1), seconds(2.4)))
    expect(Math.abs(voice(out) - voice(samples))).toBeLessThan(0.7)
  })
  test('strength 0 leaves more of the room than strength 1', async () => {
    const room = async (strength: string) => {
      await lectern('tidy', input, '-o', at('s.wav'), '--strength', strength, '--keep-length', '--no-level')
      return toDb(rms(samplesOf(at('s.wav')), seconds(2.7), seconds(3.1)))
    }
    expect(await room('0')).toBeGreaterThan((await room('1')) + 20)
  })
  test('is read whatever its name says it is', async () => {
    execFileSync('ffmpeg', ['-loglevel', 'error', '-y', '-i', input, '-c:a', 'aac', '-f', 'ipod', at('phone.mp3')])
    expect((await lectern('tidy', at('phone.mp3'), '-o', at('phone.wav'))).status).toBe(0)
    expect(samplesOf(at('phone.wav')).length).toBeGreaterThan(seconds(3))
  })
  test('of one living channel is as loud as that channel', async () => {
    execFileSync('ffmpeg', ['-loglevel', 'error', '-y', '-i', input, '-af', 'pan=stereo|c0=c0|c1=0*c0', at('half.wav')])
    const { stdout } = await lectern('tidy', at('half.wav'), '-o', at('half-out.wav'), '--json')
    expect(JSON.parse(stdout).deadChannels).toBe(1)
  })
  test('at 8 kHz, as a telephone gives it, is tidied too', async () => {
    execFileSync('ffmpeg', ['-loglevel', 'error', '-y', '-i', input, '-ar', '8000', at('phone8.wav')])
    const { stdout } = await lectern('tidy', at('phone8.wav'), '-o', at('phone8-out.wav'), '--json')
    expect(JSON.parse(stdout).speech).toHaveLength(2)
  })
})

test('silence is kept whole and said to be silence', async () => {
  const { status, stdout } = await lectern('tidy', wav('silence.wav', noise(0.0005, seconds(3))), '-o', at('silent-out.wav'))
  expect(status).toBe(0)
  expect(stdout).toContain('No voice found: was the microphone muted?')
  expect(samplesOf(at('silent-out.wav')).length).toBe(seconds(3))
})

test('0.2 s of sound does no harm', async () => {
  expect((await lectern('tidy', wav('short.wav', noise(0.1, seconds(0.2))), '-o', at('short-out.wav'))).status).toBe(0)
})

describe('what cannot be done ends with 1 and one sentence', () => {
  test.each([
    ['a missing file', () => at('nowhere.wav'), /There is no file “nowhere.wav”/],
    ['an empty file', () => file('empty.wav', ''), /is empty \(0 bytes\)/],
    ['a text', () => file('notes.wav', 'these are notes\n'.repeat(50)), /cannot be read as sound/],
    [
      'a playlist that names another file',
      () => file('list.wav', '#EXTM3U\n#EXTINF:1,\nfile:///etc/hostname\n'),
      /cannot be read as sound/,
    ],
  ])('%s', async (_, input, sentence) => {
    const { status, stderr } = await lectern('tidy', input(), '-o', at('x.wav'))
    expect(status).toBe(1)
    expect(stderr).toMatch(sentence)
    expect(stderr.trim().split('\n')).toHaveLength(1)
    expect(existsSync(at('x.wav'))).toBe(false)
  })
})

test('tidying leaves nothing beside what was asked for, and names a folder that is not there', async () => {
  const own = wav('own.wav', madeTake().samples)
  const folder = at('alone')
  mkdirSync(folder)
  expect((await lectern('tidy', own, '-o', join(folder, 'out.wav'))).status).toBe(0)
  expect(readdirSync(folder)).toEqual(['out.wav'])
  const { status, stderr } = await lectern('tidy', own, '-o', join(folder, 'nowhere', 'out.wav'))
  expect([status, stderr]).toEqual([1, expect.stringContaining('There is no folder')])
})

describe('caption files', () => {
  const vtt = file(
    'talk.vtt',
    'WEBVTT\n\nfirst\n00:01.000 --> 00:02.500 line:0 align:start\n<b>Good</b> &amp; early\n\n00:03.000 --> 00:02.000\nbackwards\n\n00:04.000 --> 00:06.000\nlast\n',
  )
  test('are checked: what they hold, and what is wrong by line', async () => {
    const { status, stdout } = await lectern('captions', 'check', vtt, '--json')
    expect(status).toBe(1)
    const told = JSON.parse(stdout)
    expect(told.cues[0]).toEqual({
      id: 'first',
      start: 1,
      end: 2.5,
      text: '<b>Good</b> &amp; early',
      settings: { line: '0', align: 'start' },
    })
    expect(told).toMatchObject({ valid: false, problems: [{ line: 7, message: 'This cue ends before it starts.' }] })
  })
  test('go from WebVTT to SubRip and back, what is wrong left out', async () => {
    // what is wrong was left out, and that is said
    expect((await lectern('captions', 'convert', vtt, at('talk.srt'))).status).toBe(1)
    expect(readFileSync(at('talk.srt'), 'utf8')).toBe(
      '1\n00:00:01,000 --> 00:00:02,500\n<b>Good</b> & early\n\n2\n00:00:04,000 --> 00:00:06,000\nlast\n',
    )
    expect((await lectern('captions', 'convert', at('talk.srt'), at('back.vtt'))).status).toBe(0)
    expect(readFileSync(at('back.vtt'), 'utf8')).toContain('00:00:01.000 --> 00:00:02.500\n<b>Good</b> &amp; early')
    expect(JSON.parse((await lectern('captions', 'check', at('back.vtt'), '--json')).stdout).valid).toBe(true)
  })
  test('are put in order as WebVTT, with the regions and style sheets they speak of', async () => {
    const own = 'WEBVTT\n\nSTYLE\n::cue(#a) { color: red }\n\nREGION\nid:low\nlines:2\n\n'
    const cues = 'a\n00:00:01.000 --> 00:00:02.500 region:low\nearly\n\n00:00:04.000 --> 00:00:06.000\nlast\n'
    expect((await lectern('captions', 'convert', file('regions.vtt', own + cues), at('again.vtt'))).status).toBe(0)
    expect(readFileSync(at('again.vtt'), 'utf8')).toBe(own + cues)
  })
  test('that are none end with 1 and one sentence', async () => {
    const { status, stderr } = await lectern('captions', 'check', file('not.vtt', 'Dear Sir'))
    expect([status, stderr]).toEqual([1, expect.stringContaining('neither a WebVTT nor a SubRip file')])
  })
})

test.each([
  [['captions']],
  [['captions', 'convert', 'a.vtt', 'b.txt']],
  [['tidy']],
  [['tidy', 'a.wav']],
  [['tidy', 'a.wav', '-o', 'b.wav', '--strength', '2']],
  [['sing']],
  [['tidy', '--loud']],
])('wrong usage ends with 2: %j', async (args) => {
  const { status, stderr } = built(args)
  expect(status).toBe(2)
  expect(stderr).toContain('Usage: lectern')
})
