/** What recognisers of ours are made of: answers, pieces of sound, sounds of words, weights of words. */
import { describe, expect, test } from 'vitest'
import { readAnswer } from '#server/speech/recognisers/ask-recogniser.ts'
import { cmuSounds } from '#server/speech/recognisers/pocketsphinx/pronunciation.ts'
import { withWordWeights } from '#server/speech/recognisers/pocketsphinx/word-weights.ts'
import { bytesOfPiece, secondsOf, speechPieces } from '#server/speech/recognisers/speech-pieces.ts'
import { wordsOfTokens } from '#server/speech/recognisers/words-of-tokens.ts'

describe('answers', () => {
  const read = (text: string, seconds = 10) => readAnswer(Buffer.from(text), 'en', seconds)
  test('are JSON with words, captions, or plain text', () => {
    const words = [
      { text: 'climbs', start: 1.5, end: 2 },
      { text: ' water ', start: 1, end: 1.5, confidence: 0.5 },
    ]
    expect(read(JSON.stringify({ protocol: 1, words }))).toEqual({
      words: [
        { text: 'water', start: 1, end: 1.5, confidence: 0.5 },
        { text: 'climbs', start: 1.5, end: 2, confidence: null },
      ],
    })
    const captioned = {
      words: [expect.objectContaining({ text: 'Water', start: 1 }), expect.objectContaining({ text: 'climbs.', end: 3 })],
    }
    expect(read('WEBVTT\n\n00:01.000 --> 00:03.000\n<i>Water</i> climbs.\n')).toEqual(captioned)
    expect(read('1\n00:00:01,000 --> 00:00:03,000\nWater climbs.\n')).toEqual(captioned)
    expect(read('Water climbs. Read it.\n')).toEqual({ sentences: ['Water climbs.', 'Read it.'] })
    expect((read('word '.repeat(60)) as { sentences: string[] }).sentences.map((s) => s.split(' ').length)).toEqual([
      14, 14, 14, 14, 4,
    ])
  })
  test('without a word, after the end of the sound, or of another form are none', () => {
    for (const text of [
      '',
      ' \n',
      '…',
      '{"protocol":1,"words":[]}',
      '{"protocol":2,"words":[{"text":"a","start":0,"end":1}]}',
      '{ broken',
    ])
      expect(read(text), text).toBeNull()
    expect(read(JSON.stringify({ protocol: 1, words: [{ text: 'late', start: 11, end: 12 }] }))).toBeNull()
  })
})

test('a recording is cut where nobody speaks, and nowhere is a piece too long', () => {
  expect(
    speechPieces(
      [
        { start: 0.1, end: 2 },
        { start: 2.2, end: 3 },
        { start: 5, end: 6 },
      ],
      6.1,
    ),
  ).toEqual([
    { start: 0, end: 3.2 },
    { start: 4.8, end: 6.1 },
  ])
  const long = speechPieces([], 100)
  expect(long).toHaveLength(3)
  expect(long[2]!.end).toBeCloseTo(100)
  const wav = new Uint8Array(44 + 2 * 16_000)
  wav[44 + 2 * 8000] = 7
  expect(secondsOf(wav)).toBe(1)
  expect(bytesOfPiece(wav, { start: 0.5, end: 0.75 })).toHaveLength(8000)
  expect(bytesOfPiece(wav, { start: 0.5, end: 0.75 })[0]).toBe(7)
})

test('pieces of words become words with their times', () => {
  const made = wordsOfTokens({ tokens: ['▁wa', 'ter', '▁climb', 's'], timestamps: [0.1, 0.3, 0.8, 1] }, { start: 10, end: 12 })
  expect(made.map(({ text, start, end }) => [text, start, end])).toEqual([
    ['water', 10.1, 10.8],
    ['climbs', 10.8, 12],
  ])
  expect(wordsOfTokens({ tokens: ['水', '位'], timestamps: [0, 0.5] }, { start: 0, end: 1 }).map(({ text }) => text)).toEqual([
    '水',
    '位',
  ])
})

test('words are said in the sounds of the dictionary', () => {
  // CMU pronouncing dictionary: FILENAME is F AY L N EY M, MUTE is M Y UW T, WEATHER is W EH DH ER
  expect(cmuSounds('f_ˈaɪ_l_n_eɪ_m')).toBe('F AY L N EY M')
  expect(cmuSounds('m_j_ˈuː_t')).toBe('M Y UW T')
  expect(cmuSounds('w_ˈɛ_ð_ɚ')).toBe('W EH DH ER')
  expect(cmuSounds('ɲ')).toBeNull()
  expect(cmuSounds('')).toBeNull()
})

describe('word weights', () => {
  const LOG_BASE = Math.log(1.0001)
  /** A model of some words, one pair and one triple, as the format has it. */
  function model(names = ['gauge', 'rain', 'the']): Buffer {
    const [words, pairs, triples] = [names.length, 2, 1]
    const head = Buffer.alloc(20 + 12 + 4)
    head.write('Trie Language Model', 'latin1')
    head[19] = 3
    for (const [i, count] of [words, pairs, triples].entries()) head.writeUInt32LE(count, 20 + 4 * i)
    head.writeUInt32LE(1, 32)
    const tables = Buffer.alloc(3 * 4 * 65_536, 1)
    const entries = Buffer.alloc((words + 1) * 12)
    for (let i = 0; i < words; i++) entries.writeFloatLE(Math.log([0.5, 0.3, 0.2, 0.1][i]!) / LOG_BASE, 12 * i)
    // the pairs of the last word end before their number, as in Debian's model
    entries.writeUInt32LE(1, words * 12 + 8)
    const bytes = (count: number, bits: number) => Math.floor(((1 + count) * bits + 7) / 8) + 8
    const wordBits = words > 3 ? 3 : 2
    const packed = Buffer.alloc(bytes(pairs, wordBits + 32 + 1) + bytes(triples, wordBits + 16), 9)
    const texts = Buffer.from(names.map((name) => `${name}\0`).join(''))
    const size = Buffer.alloc(4)
    size.writeUInt32LE(texts.length)
    return Buffer.concat([head, tables, entries, packed, size, texts])
  }
  const weight = (changed: Buffer, i: number) => Math.exp(changed.readFloatLE(36 + 3 * 4 * 65_536 + 12 * i) * LOG_BASE)
  test('of a text are laid over those of the model', () => {
    const { changed, added } = withWordWeights(model(), [{ word: 'rain', share: 1 }], 0.1)
    expect(added).toEqual([])
    expect(changed.length).toBe(model().length)
    expect([0, 1, 2].map((i) => weight(changed, i))).toEqual([0.5, 0.9 * 0.3 + 0.1, 0.2].map((p) => expect.closeTo(p, 3)))
  })
  test('of a word that the model does not know are added as far as its numbers of words reach', () => {
    const wanted = ['unmute', 'cirrus', 'stratus', 'nimbus'].map((word) => ({ word, share: 0.25 }))
    // four words are numbered by three bits, which number seven
    const { changed, added } = withWordWeights(model(['gauge', 'rain', 'the', 'tube']), wanted, 0.1)
    expect(added).toEqual(['unmute', 'cirrus', 'stratus'])
    expect(changed.readUInt32LE(20)).toBe(7)
    expect(weight(changed, 4)).toBeCloseTo(0.025, 4)
    // the added ones have no pairs, the entry after the last still ends it, and the names follow the others
    for (const i of [4, 5, 6, 7]) expect(changed.readUInt32LE(36 + 3 * 4 * 65_536 + 12 * i + 8)).toBe(1)
    expect(changed.toString('utf8').endsWith('tube\0unmute\0cirrus\0stratus\0')).toBe(true)
    // three words need two bits, and two bits number no fourth one
    const full = withWordWeights(model(), wanted, 0.1)
    expect(full.added).toEqual([])
    expect(full.changed.equals(model())).toBe(true)
  })
  test('a file of another form is refused', () => {
    expect(() => withWordWeights(Buffer.alloc(100), [], 0.1)).toThrow('no model')
    expect(() => withWordWeights(model().subarray(0, -3), [], 0.1)).toThrow('not whole')
  })
})
