/** Times and scripts of a lecture as text, for other programs and for people. */

import type { Lecture } from '#core/model/lecture.ts'
import { csvLine } from '#core/reports/csv.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { schedule } from '#core/timing/schedule.ts'
import { message } from '#core/words/say.ts'
import { sayIn } from '#core/words/say-in.ts'

/** Slide, title, start and length in seconds. @see RFC 4180 */
export function timingsCsv(lecture: Lecture): string {
  const titles = new Map(lecture.slides.map((slide) => [slide.id, slide.title]))
  const rows = schedule(lecture).slides.map((slide, i) => [
    String(i + 1),
    titles.get(slide.slideId) ?? '',
    toSeconds(slide.startSamples).toFixed(3),
    toSeconds(slide.lengthSamples).toFixed(3),
  ])
  return [['slide', 'title', 'start', 'length'], ...rows].map(csvLine).join('')
}

/** All scripts, a heading a slide. */
export function scriptMarkdown(lecture: Pick<Lecture, 'title' | 'slides' | 'language'>): string {
  const parts = lecture.slides.map(
    (slide, i) =>
      `## ${slide.title.replace(/\s+/g, ' ') || sayIn(lecture.language, message('Slide {number}', { number: i + 1 }))}\n\n${slide.script.trim()}`,
  )
  return `# ${lecture.title}\n\n${parts
    .join('\n\n')
    .replace(/\n{3,}/g, '\n\n')
    .trim()}\n`
}

export function scriptText(lecture: Pick<Lecture, 'title' | 'slides'>): string {
  const parts = lecture.slides.map((slide, i) => `${i + 1}. ${slide.title}\n${slide.script.trim()}`.trim())
  return `${lecture.title}\n\n${parts.join('\n\n')}\n`
}

/** Scripts out of a text: a slide for each `## ` heading, or between lines of `---` when there is no heading. */
export function scriptsOf(text: string): { title: string | null; script: string }[] {
  const lines = text.replace(/^\uFEFF/, '').split(/\r?\n/)
  const headed = lines.some((line) => /^##\s+\S/.test(line))
  const parts: { title: string | null; lines: string[] }[] = headed ? [] : [{ title: null, lines: [] }]
  for (const line of lines) {
    if (headed ? /^##\s+\S/.test(line) : /^---+\s*$/.test(line))
      parts.push({ title: headed ? line.replace(/^##\s+/, '').trim() : null, lines: [] })
    else parts.at(-1)?.lines.push(line)
  }
  return parts.map((part) => ({ title: part.title, script: part.lines.join('\n').trim() }))
}
