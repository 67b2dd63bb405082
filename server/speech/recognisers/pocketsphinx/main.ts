/** A recogniser by Debian's pocketsphinx and its model of American English: words of the slide and the lecture are made likelier, and added where it does not know them. */
import { execFile } from 'node:child_process'
import { existsSync } from 'node:fs'
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { promisify } from 'node:util'
import loadSynthesiser from '@echogarden/espeak-ng-emscripten'
import type { HeardWord, RecogniserContext } from '#core/captions/recognised/recogniser.ts'
import { message } from '#core/words/say.ts'
import { answerProbe, answerWords, calledWith, runRecogniser } from '../called.ts'
import { bytesOfPiece, secondsOf, speechPieces } from '../speech-pieces.ts'
import { cmuSounds } from './pronunciation.ts'
import { type Wanted, withWordWeights } from './word-weights.ts'

const PROGRAM = '/usr/bin/pocketsphinx_batch'
const MODEL = '/usr/share/pocketsphinx/model/en-us'
const FILES = { sounds: `${MODEL}/en-us`, weights: `${MODEL}/en-us.lm.bin`, dictionary: `${MODEL}/cmudict-en-us.dict` }
/** How much the texts count beside the model: chosen on odd seeds of `npm run bench -- drafts`. How much the rest of the lecture counts beside the slide was not measured. */
const TRUST = 0.1
const LECTURE_PART = 0.3
/** Of 100 words of clean, tidied speech (`npm run bench -- drafts`). */
const WRONG_OF_100 = 22

const start = promisify(execFile)
const isInstalled = () => existsSync(PROGRAM) && Object.values(FILES).every((path) => existsSync(path))

const wordsOf = (text: string) =>
  text
    .toLowerCase()
    .replaceAll('’', "'")
    .match(/[a-z][a-z']*/g) ?? []

async function run(args: readonly string[]): Promise<void> {
  try {
    await start(PROGRAM, args)
  } catch (error) {
    // what it says itself is a command line of many lines
    const { signal, code } = error as { signal?: string; code?: number }
    throw new Error(`pocketsphinx ended with ${signal ?? code}`)
  }
}

/** Which words to expect, and how often each. */
function wantedWords({ slide, lecture }: RecogniserContext): Wanted[] {
  const shares = new Map<string, number>()
  const count = (words: readonly string[], part: number) => {
    for (const word of words) shares.set(word, (shares.get(word) ?? 0) + part / words.length)
  }
  const [own, others] = [wordsOf(slide), wordsOf(lecture)]
  count(own, others.length > 0 ? 1 - LECTURE_PART : 1)
  count(others, own.length > 0 ? LECTURE_PART : 1)
  return [...shares].map(([word, share]) => ({ word, share }))
}

/** The dictionary with words it does not have, as the synthesiser would say them; those it cannot say are left out. */
async function dictionaryWith(words: readonly string[]): Promise<string> {
  const dictionary = await readFile(FILES.dictionary, 'utf8')
  const known = new Set(dictionary.split('\n').map((line) => line.slice(0, line.indexOf(' '))))
  const missing = words.filter((word) => !known.has(word))
  if (missing.length === 0) return dictionary
  const worker = new (await loadSynthesiser()).eSpeakNGWorker()
  worker.set_voice('en-us')
  const lines = missing.flatMap((word) => {
    const sounds = cmuSounds(worker.synthesize_ipa(word).ipa.trim())
    return sounds ? [`${word} ${sounds}\n`] : []
  })
  return `${dictionary.trimEnd()}\n${lines.join('')}`
}

/** One line of a CTM file (NIST): name, channel, start, length, word, confidence. */
function heardIn(line: string, pieces: readonly { start: number }[]): HeardWord[] {
  const [name, , start, length, word, confidence] = line.split(/\s+/)
  const piece = pieces[Number(name)]
  // other pronunciations of a word have a number; breaths and the like stand in signs
  const text = word?.replace(/\(\d+\)$/, '') ?? ''
  if (!piece || !/^[a-z]/i.test(text)) return []
  const from = piece.start + Number(start)
  return [{ text, start: from, end: from + Number(length), confidence: Math.min(1, Math.max(0, Number(confidence))) }]
}

async function listen() {
  const { isProbe, sound, context } = calledWith(process.argv.slice(2))
  const isReady = isInstalled()
  if (isProbe)
    return answerProbe({
      name: 'pocketsphinx',
      languages: ['en'],
      isReady,
      missing: isReady ? '' : message('Not installed. Install the Debian packages pocketsphinx and pocketsphinx-en-us.').id,
      wrongOf100: WRONG_OF_100,
    })
  const folder = await mkdtemp(join(tmpdir(), 'lectern-pocketsphinx-'))
  try {
    const wav = await readFile(sound)
    const pieces = speechPieces(context.stretches, secondsOf(wav))
    for (const [i, piece] of pieces.entries()) await writeFile(join(folder, `${i}.raw`), bytesOfPiece(wav, piece))
    await writeFile(join(folder, 'pieces'), pieces.map((_, i) => `${i}\n`).join(''))
    const { changed, added } = withWordWeights(await readFile(FILES.weights), wantedWords(context), TRUST)
    await writeFile(join(folder, 'weights.bin'), changed)
    await writeFile(join(folder, 'dictionary'), await dictionaryWith(added))
    await run([
      ...['-hmm', FILES.sounds, '-lm', join(folder, 'weights.bin'), '-dict', join(folder, 'dictionary')],
      ...['-ctl', join(folder, 'pieces'), '-cepdir', folder, '-cepext', '.raw', '-adcin', 'yes'],
      // with silence taken out its times would be of another sound
      ...['-remove_silence', 'no', '-ctm', join(folder, 'words'), '-logfn', join(folder, 'log')],
    ])
    const heard = await readFile(join(folder, 'words'), 'utf8')
    answerWords(heard.split('\n').flatMap((line) => heardIn(line, pieces)))
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}

await runRecogniser(listen)
