/** The speech synthesiser that lends the aligner its voices: a library with data in it, loaded here and passed into the core. */
import loadSynthesiser, { type EspeakWorker } from '@echogarden/espeak-ng-emscripten'
import type { Synthesiser } from '#core/captions/align/reference.ts'
import { relatedVoice } from '#core/script/timed-languages.ts'

/** Languages whose voice is called otherwise than in BCP 47. */
const VOICES: Record<string, string> = {
  en: 'en-us',
  'en-gb': 'en',
  zh: 'cmn',
  no: 'nb',
  pt: 'pt-br',
  'pt-pt': 'pt',
  es: 'es',
  fr: 'fr',
  he: 'he',
}

/** Voices to try for a language, the most particular first, a related language's last. */
function voicesFor(language: string): string[] {
  const whole = language.toLowerCase()
  const [short] = whole.split('-') as [string]
  const related = relatedVoice(language)
  return [...new Set([VOICES[whole] ?? whole, VOICES[short] ?? short, short, ...(related ? [related] : [])])]
}

/**
 * A fresh synthesiser. What it spoke before would colour what it speaks next, so that every job gets its own, and the same input
 * gives the same output.
 *
 * @param language BCP 47
 * @returns null when it has no voice for the language
 */
export async function openSynthesiser(language: string): Promise<Synthesiser | null> {
  const library = await loadSynthesiser()
  const worker: EspeakWorker = new library.eSpeakNGWorker()
  // 0 is success; everything else leaves the voice as it was
  if (!voicesFor(language).some((voice) => worker.set_voice(voice) === 0)) return null
  const rate = worker.get_samplerate()
  return {
    speak(text) {
      const pieces: Int16Array[] = []
      const words: { seconds: number; character: number }[] = []
      worker.synthesize(text, (samples, events) => {
        if (samples && samples.length > 0) pieces.push(samples.slice())
        for (const event of events)
          if (event.type === 'word') words.push({ seconds: event.audio_position / 1000, character: event.text_position - 1 })
        return false
      })
      const samples = new Float32Array(pieces.reduce((sum, piece) => sum + piece.length, 0))
      let at = 0
      for (const piece of pieces) {
        for (let i = 0; i < piece.length; i++) samples[at + i] = piece[i]! / 32768
        at += piece.length
      }
      return { samples, rate, words }
    },
  }
}
