/**
 * The practice recogniser, for trying things out and for tests. It knows the texts of the demo lecture and of the practice microphone and no
 * others, tells which of them is spoken, and mishears a word now and then. `LECTERN_PRACTICE_ANSWER` names a file that it prints instead,
 * and `LECTERN_PRACTICE_TROUBLE` a trouble that recognisers have.
 */
import { readFileSync } from 'node:fs'
import { resolve } from 'node:path'
import { fromInt16 } from '#core/audio/signal/pcm.ts'
import { type Alignment, align, finalUtterance } from '#core/captions/align/align.ts'
import { melOfSixteen } from '#core/captions/align/extract-features.ts'
import { isConvincing } from '#core/captions/compare/findings.ts'
import type { HeardWord } from '#core/captions/recognised/recogniser.ts'
import { PRACTICE_TEXT } from '#core/recording/practice-voice.ts'
import { sentences } from '#core/script/sentences.ts'
import { samplesOf } from '#server/media/sound-files.ts'
import { openSynthesiser } from '../synthesiser.ts'
import { answerProbe, answerWords, calledWith, runRecogniser } from './called.ts'

/** One of so many words is heard wrongly: as the one before it. */
const MISHEARD = 12
/** Letters a second, rests and all, of somebody who reads. */
const LETTERS_A_SECOND = 12
/** A text that fits so well is the one. */
const SURELY = 0.7
const WAV_HEAD_BYTES = 44

const TROUBLES: Record<string, () => void> = {
  crash: () => process.kill(process.pid, 'SIGSEGV'),
  'no model': () => {
    process.stderr.write('the model file is not one\n')
    process.exit(3)
  },
  hang: () => setInterval(() => {}, 1000),
  memory: () => {
    const held: Buffer[] = []
    setInterval(() => held.push(Buffer.alloc(100_000_000, 1)), 50)
  },
  endless: () => {
    const more = () => process.stdout.write('one more word '.repeat(10_000), more)
    more()
  },
}

const demoTexts = () =>
  (JSON.parse(readFileSync(resolve('demo/files/lecture.json'), 'utf8')) as { slides: { script: string }[] }).slides.map(
    ({ script }) => script,
  )

/** How well a text fits what is heard: 0 where it does not, 1 at most. */
function likeness(found: Alignment | null): number {
  if (!found || !isConvincing(found)) return 0
  const letters = found.sentences.reduce((sum, s) => sum + s.text.length, 0)
  return found.sentences.reduce((sum, s) => sum + (s.skipped ? 0 : s.confidence * s.text.length), 0) / letters
}

async function wordsIn(path: string): Promise<HeardWord[]> {
  const sixteen = fromInt16(samplesOf(readFileSync(path).subarray(WAV_HEAD_BYTES)))
  const heard = { mel: melOfSixteen(sixteen), sixteen, speechProbability: null }
  // those that would take about so long come first
  const strangeness = (text: string) => Math.abs(Math.log((sixteen.length / 16_000) * LETTERS_A_SECOND) - Math.log(text.length))
  let best: Alignment | null = null
  for (const text of [PRACTICE_TEXT, ...demoTexts()].toSorted((a, b) => strangeness(a) - strangeness(b))) {
    const found = align(heard, sentences(text, 'en'), (await openSynthesiser('en'))!)
    if (likeness(found) > likeness(best)) best = found
    if (likeness(best) > SURELY) break
  }
  const said = (best?.sentences ?? [])
    .flatMap((sentence) => finalUtterance(sentence)?.words ?? [])
    .sort((a, b) => a.start - b.start)
  const bare = (word: string) => word.toLowerCase().replace(/[^\p{L}\p{N}'-]/gu, '')
  return said.map(({ w, start, end }, i) => ({
    text: bare(i % MISHEARD === MISHEARD - 1 ? said[i - 1]!.w : w),
    start,
    end,
    confidence: best!.sentences[0]!.confidence,
  }))
}

async function practise() {
  const { isProbe, sound } = calledWith(process.argv.slice(2))
  if (isProbe) return answerProbe({ name: 'Practice recogniser', languages: ['en'], isReady: true, isPractice: true })
  const trouble = TROUBLES[process.env.LECTERN_PRACTICE_TROUBLE ?? '']
  if (trouble) return trouble()
  const answer = process.env.LECTERN_PRACTICE_ANSWER
  if (answer) return void process.stdout.write(readFileSync(answer))
  answerWords(await wordsIn(sound))
}

await runRecogniser(practise)
