/** Which sentences a take holds, and where: what two takes are compared by. */
import { type Alignment, finalUtterance } from '#core/captions/align/align.ts'

export interface SaidSentence {
  text: string
  /** Seconds of the take. */
  start: number
  end: number
}

/** Sentences that were said, in order: of one that was said again, the saying that counts. */
export function saidSentences({ sentences }: Alignment): SaidSentence[] {
  return sentences.flatMap((sentence) => {
    const meant = finalUtterance(sentence)
    return meant ? [{ text: sentence.text, start: meant.start, end: meant.end }] : []
  })
}

export interface SaidInBoth {
  text: string
  /** Where each of the two takes has it; null where it was not said. */
  in: [SaidSentence | null, SaidSentence | null]
}

/** Sentences of two takes side by side, in the order of the first; what only the second has stands where it was said there. */
export function sideBySide(first: readonly SaidSentence[], second: readonly SaidSentence[]): SaidInBoth[] {
  const left = [...second]
  const rows: SaidInBoth[] = []
  for (const sentence of first) {
    const at = left.findIndex((other) => other.text === sentence.text)
    // what the second says before it is told first
    for (const other of left.splice(0, Math.max(0, at))) rows.push({ text: other.text, in: [null, other] })
    rows.push({ text: sentence.text, in: [sentence, at < 0 ? null : left.shift()!] })
  }
  return [...rows, ...left.map((other): SaidInBoth => ({ text: other.text, in: [null, other] }))]
}
