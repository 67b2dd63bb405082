/**
 * Line breaking against filling every line as far as it goes: the demo's scripts and 200 sentences of public-domain prose, the King
 * James Bible as Debian's bible-kjv ships it.
 */
import { execFileSync } from 'node:child_process'
import {
  breakCost,
  captionTexts,
  isForbidden,
  joined,
  type Piece,
  piecesOf,
  widthOf,
} from '#core/captions/generate/break-lines.ts'
import { sentences } from '#core/script/sentences.ts'
import { DEMO_SLIDES } from '#demo/lecture.ts'

const OPTIONS = { language: 'en', lineCharacters: 37 }
/** A break that tears nothing apart but has no reason to be where it is costs so much. */
const REASONLESS = 10

export function hasProse(): boolean {
  try {
    return execFileSync('bible', ['-f', 'gen1:1'], { encoding: 'utf8' }).includes('beginning')
  } catch {
    return false
  }
}

function prose(): string[] {
  const verses = execFileSync('bible', ['-f', 'gen1:1-12:20'], { encoding: 'utf8' }).split('\n')
  const text = verses.map((verse) => verse.replace(/^\S+\s+/, '')).join(' ')
  return [...DEMO_SLIDES.flatMap((slide) => sentences(slide.script, 'en')), ...sentences(text, 'en').slice(0, 200)]
}

/** Every line as full as it goes, every caption two lines. */
function greedy(sentence: string): string[] {
  const lines: Piece[][] = [[]]
  for (const piece of piecesOf(sentence, OPTIONS.language)) {
    const line = lines.at(-1)!
    if (line.length > 0 && widthOf(joined([...line, piece])) > OPTIONS.lineCharacters) lines.push([piece])
    else line.push(piece)
  }
  const texts = lines.map(joined)
  return Array.from({ length: Math.ceil(texts.length / 2) }, (_, i) => texts.slice(2 * i, 2 * i + 2).join('\n'))
}

export interface LineFaults {
  breaks: number
  /** Lines too long or too many, words lost. */
  hard: number
  /** Breaks between words that belong together. */
  torn: number
  /** Breaks with no reason to be where they are. */
  reasonless: number
}

function judge(divide: (sentence: string) => string[]): LineFaults {
  const faults: LineFaults = { breaks: 0, hard: 0, torn: 0, reasonless: 0 }
  for (const sentence of prose()) {
    const texts = divide(sentence)
    if (texts.join(' ').replaceAll('\n', ' ') !== sentence) faults.hard++
    for (const text of texts) {
      const lines = text.split('\n')
      if (lines.length > 2 || lines.some((line) => widthOf(line) > OPTIONS.lineCharacters && line.includes(' '))) faults.hard++
    }
    const lines = texts.flatMap((text) => text.split('\n')).map((line) => piecesOf(line, OPTIONS.language))
    for (const [i, line] of lines.entries()) {
      const next = lines[i + 1]
      if (!next) continue
      faults.breaks++
      const cost = breakCost(line.at(-1)!, next[0]!, OPTIONS.language)
      if (isForbidden(line.at(-1)!, next[0]!, OPTIONS.language)) faults.torn++
      else if (cost >= REASONLESS) faults.reasonless++
    }
  }
  return faults
}

export const lineFaults = () => ({ ours: judge((sentence) => captionTexts(sentence, OPTIONS)), greedy: judge(greedy) })
