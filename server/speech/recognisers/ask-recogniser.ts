/** Asks a recogniser what is said in a sound, and reads its answer. */
import { rm, writeFile } from 'node:fs/promises'
import { plainCueText } from '#core/captions/formats/webvtt/cue-text.ts'
import { type HeardWord, RecogniserAnswer, type RecogniserContext } from '#core/captions/recognised/recogniser.ts'
import { wordsOfCues } from '#core/captions/spoken/spoken-words.ts'
import { sentences } from '#core/script/sentences.ts'
import { message } from '#core/words/say.ts'
import { readCaptionFile } from '#server/domain/caption-tracks/caption-files.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { type Bounds, runBounded } from './bounded-process.ts'
import type { KnownRecogniser } from './known-recognisers.ts'

const OUTPUT_BYTES = 5_000_000
const MEMORY_BYTES = 6e9
/** A model may be slower than speech, but not without end: it has to be loaded, and then so many times the sound's length. */
const [LOADING_S, TIMES_LENGTH] = [120, 10]
/** Text without full stops and without times is sought in pieces of so many words. */
const WORDS_A_PIECE = 14

/** Words with their times; or sentences, where none are known. */
export type Heard = { words: HeardWord[] } | { sentences: string[] }

export const boundsFor = (seconds: number): Bounds => ({
  seconds: LOADING_S + TIMES_LENGTH * seconds,
  memoryBytes: MEMORY_BYTES,
  outputBytes: OUTPUT_BYTES,
})

/**
 * @param printed JSON, WebVTT, SubRip or plain text
 * @param seconds length of the sound: what is said to be after it is not
 * @returns null when no word is in it
 */
export function readAnswer(printed: Buffer, language: string, seconds: number): Heard | null {
  const text = printed.toString('utf8').replace(/^\uFEFF/, '')
  const timed = (words: HeardWord[]): Heard | null => {
    const usable = words
      .filter((word) => word.start < seconds && word.end > word.start && word.text.trim() !== '')
      .map((word) => ({ ...word, text: word.text.trim(), end: Math.min(word.end, seconds) }))
      .sort((a, b) => a.start - b.start)
    return usable.length > 0 ? { words: usable } : null
  }
  if (text.trimStart().startsWith('{')) {
    const answer = RecogniserAnswer.safeParse(parsed(text))
    return answer.success ? timed(answer.data.words) : null
  }
  if (text.startsWith('WEBVTT') || text.includes('-->')) {
    const cues = readCaptionFile('what the recogniser printed', printed).cues.map((cue) => ({
      ...cue,
      text: plainCueText(cue.text),
    }))
    return timed(wordsOfCues(cues).map(({ text, start, end }) => ({ text, start, end, confidence: null })))
  }
  const found = sentences(text, language)
  const pieces = found.flatMap((sentence) => {
    const words = sentence.split(' ')
    if (words.length <= 3 * WORDS_A_PIECE) return [sentence]
    return Array.from({ length: Math.ceil(words.length / WORDS_A_PIECE) }, (_, i) =>
      words.slice(i * WORDS_A_PIECE, (i + 1) * WORDS_A_PIECE).join(' '),
    )
  })
  return pieces.length > 0 ? { sentences: pieces } : null
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text)
  } catch {
    return null
  }
}

const OVER = {
  seconds: message('The recogniser took too long and was ended. Nothing was captioned; try a shorter recording, or type by ear.'),
  memoryBytes: message('The recogniser wanted more memory than there is for it and was ended. Nothing was captioned.'),
  outputBytes: message('The recogniser printed without end and was ended. Nothing was captioned.'),
}

/**
 * @param sound a WAV file, 16 kHz, 16 bits, mono
 * @param seconds its length
 * @param scratch a path for what it is told besides, which is made and removed
 * @throws UserFacingError when the program cannot be run, fails, goes over a bound, or prints no words
 */
export async function askRecogniser(
  recogniser: KnownRecogniser,
  sound: string,
  seconds: number,
  language: string,
  context: RecogniserContext,
  scratch: string,
  signal: AbortSignal,
  bounds = boundsFor(seconds),
): Promise<Heard> {
  try {
    const more = recogniser.knowsProtocol ? ['--context', scratch] : []
    if (more.length > 0) await writeFile(scratch, JSON.stringify({ protocol: 1, ...context }), { flag: 'wx' })
    const args = [...recogniser.args, '--language', language, ...more, sound]
    const ended = await runBounded(recogniser.program, args, bounds, signal).catch((error: NodeJS.ErrnoException) => {
      if (!error.code || signal.aborted) throw error
      throw new UserFacingError(
        message('The recogniser “{name}” cannot be started. Ask whoever looks after this Tidy Lectern.', {
          name: recogniser.name,
        }),
        500,
      )
    })
    const lastOf = (stderr: string) => stderr.trim().split('\n').at(-1)?.trim().slice(0, 200)
    if (ended.over === 'crash') {
      const last = lastOf(ended.stderr)
      throw new UserFacingError(
        last
          ? message('The recogniser broke off: {last}. Nothing was captioned; type by ear, or try it once more.', { last })
          : message('The recogniser broke off. Nothing was captioned; type by ear, or try it once more.'),
        500,
      )
    }
    if (ended.over) throw new UserFacingError(OVER[ended.over], 500)
    const last = lastOf(ended.stderr)
    if (ended.code !== 0)
      throw new UserFacingError(
        last
          ? message('The recogniser failed: {last}. Ask whoever looks after this Tidy Lectern.', { last })
          : message('The recogniser failed. Ask whoever looks after this Tidy Lectern.'),
        500,
      )
    const heard = readAnswer(ended.stdout, language, seconds)
    if (!heard) throw new UserFacingError(message('The recogniser heard no words in this recording.'), 422)
    return heard
  } finally {
    await rm(scratch, { force: true })
  }
}
