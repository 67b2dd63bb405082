/** What a neural model prints, pieces of words, as words. */
import type { HeardWord } from '#core/captions/recognised/recogniser.ts'

export interface Tokens {
  tokens: string[]
  /** Seconds, when each begins. */
  timestamps?: number[]
}

/** Pieces of words as words: one that begins a word begins with a space or the sign U+2581. */
export function wordsOfTokens({ tokens, timestamps = [] }: Tokens, piece: { start: number; end: number }): HeardWord[] {
  const words: HeardWord[] = []
  for (const [i, token] of tokens.entries()) {
    const begins = /^[\u2581 ]/u.test(token)
    const text = token.replaceAll(/[\u2581 ]/gu, '')
    const start = piece.start + (timestamps[i] ?? 0)
    const last = words.at(-1)
    const isWide = /[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}]/u.test(text)
    if (last && (begins || isWide)) last.end = Math.max(last.start, Math.min(last.end, start))
    if (!last || begins || isWide) words.push({ text, start, end: piece.end, confidence: null })
    else last.text += text
  }
  return words.filter(({ text }) => text !== '')
}
