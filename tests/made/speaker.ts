/** A made-up speaker, for tests of what listens to words. */
import { type Synthesiser, wordsOf } from '#core/captions/align/reference.ts'

/** A made-up speaker: every letter is a sound of its own, two formants over a buzz. @param stretch 1.2 speaks slower */
export function speaker({ pitch, stretch, shift }: { pitch: number; stretch: number; shift: number }, rate: number): Synthesiser {
  const harmonics = Array.from({ length: Math.floor(5000 / pitch) }, (_, h) => (h + 1) * pitch)
  const letter = (code: number, seconds: number, phase: number) => {
    const [low, high] = [(280 + 47 * (code % 13)) * shift, (900 + 131 * (code % 17)) * shift]
    const gains = harmonics.map((hz) => Math.exp(-(((hz - low) / 90) ** 2)) + 0.6 * Math.exp(-(((hz - high) / 140) ** 2)) + 0.01)
    const out = new Float32Array(Math.round(seconds * rate))
    for (const [h, hz] of harmonics.entries()) {
      for (let i = 0; i < out.length; i++) out[i] = out[i]! + 0.15 * gains[h]! * Math.sin((2 * Math.PI * hz * (phase + i)) / rate)
    }
    return out
  }
  return {
    speak(text) {
      const pieces: Float32Array[] = []
      const words: { seconds: number; character: number }[] = []
      let length = 0
      for (const { text: word, character } of wordsOf(text)) {
        words.push({ seconds: length / rate, character })
        for (const code of word.toLowerCase().replace(/[^a-z]/g, '')) {
          const piece = letter(code.charCodeAt(0) - 96, 0.085 * stretch, length)
          pieces.push(piece)
          length += piece.length
        }
      }
      const samples = new Float32Array(length)
      let at = 0
      for (const piece of pieces) {
        samples.set(piece, at)
        at += piece.length
      }
      return { samples, rate, words }
    },
  }
}
