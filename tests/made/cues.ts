/** Captions made of scripts whose words were heard at known moments. */
import type { Alignment } from '#core/captions/align/align.ts'
import { preserveCueIds } from '#core/captions/edit/preserve-cue-ids.ts'
import { type CueMaterial, makeCues } from '#core/captions/generate/make-cues.ts'
import type { StoredCue } from '#core/model/caption.ts'
import { sentences } from '#core/script/sentences.ts'

export const material = (script: string, change: Partial<CueMaterial> = {}): CueMaterial => ({
  script,
  language: 'en',
  lineCharacters: 37,
  takeId: 't1',
  seconds: 60,
  speech: [],
  alignment: null,
  unsure: false,
  ...change,
})

/** As if every word took 0.4 s and every sentence were followed by a pause of 1 s; those named were not said. */
export function aligned(script: string, skipped: readonly number[] = [], first = 1): Alignment {
  let at = first
  return {
    offScript: [],
    sentences: sentences(script, 'en').map((text, i) => {
      const words = text.split(' ').map((w, k) => ({ k, w, start: at + 0.4 * k, end: at + 0.4 * k + 0.38 }))
      if (skipped.includes(i)) return { i, text, skipped: true, confidence: 0, needsReview: false, spans: [] }
      at = words.at(-1)!.end + 1
      return {
        i,
        text,
        skipped: false,
        confidence: 0.9,
        needsReview: false,
        spans: [{ start: words[0]!.start, end: words.at(-1)!.end, partial: false, words }],
      }
    }),
  }
}
let names = 0
/** Made again as the server does: names are kept, other takes' captions beside the script stay. */
export function made(script: string, before: readonly StoredCue[] = [], change: Partial<CueMaterial> = {}): StoredCue[] {
  const cues = makeCues(material(script, { alignment: aligned(script), ...change }), before)
  const ids = preserveCueIds(before, cues, () => `c${++names}`)
  return cues.map((cue, i) => ({ ...cue, id: ids[i]!, slideId: 's' }))
}
export const said = (cues: readonly { text: string }[]) => cues.map((cue) => cue.text.replaceAll('\n', ' '))
