/** What an edition says of itself: kept with it and published as manifest.json. */
import type { Preset } from '#core/model/export-settings.ts'
import type { Question } from '#core/model/question.ts'

export interface EditionVideo {
  preset: Preset
  file: string
  contentType: string
  width: number
  height: number
  bytes: number
}

export interface EditionChapter {
  title: string
  altText: string
  startSamples: number
  lengthSamples: number
  picture: string
  loudnessLufs: number | null
  /** Heading of the section that begins with it; absent where none does. */
  section?: string
  /** Whose chapter it is, and a number that tells whether the slide has changed since; absent in early editions. */
  slideId?: string
  fingerprint?: number
  /** Places in what is said, samples of the lecture; absent in early editions. */
  bookmarks?: { title: string; startSamples: number }[]
  /** What is asked after it; absent for nothing. */
  questions?: Question[]
}

export interface EditionManifest {
  title: string
  language: string
  lengthSamples: number
  chapters: EditionChapter[]
  captions: { language: string; label: string; file: string }[]
  /** Findings that were open when it was made. */
  checks: string[]
  // absent in early editions
  author?: string
  /** ISO 8601. */
  date?: string
  videos?: EditionVideo[]
  /** Language of the captions that are drawn into the picture. */
  burnedIn?: string | null
  /** What held for the whole of it. */
  passed?: string[]
  /** Of the sound that is published. */
  loudnessLufs?: number | null
  truePeakDbtp?: number | null
  /** Tells whether what is no slide's has changed since: its name, its kinds of video, its crest. */
  settings?: number
  /** Every other file beside this one. */
  files?: { name: string; bytes: number; sha256: string }[]
}

/** What is published of a manifest: what the teacher was told to look at is not for learners. */
export function publicManifest({
  checks: _,
  passed: __,
  settings: ___,
  ...published
}: EditionManifest): Omit<EditionManifest, 'checks' | 'passed' | 'settings'> {
  return published
}

/** The videos of an edition; early ones had one and did not say so. */
export function videosOf(manifest: EditionManifest): EditionVideo[] {
  return (
    manifest.videos ?? [{ preset: 'standard', file: 'video.mp4', contentType: 'video/mp4', width: 1920, height: 1080, bytes: 0 }]
  )
}

/** A slide as an edition shows it: alike when all three are. */
export type ShownSlide = Pick<EditionChapter, 'slideId' | 'fingerprint' | 'title'>

export interface EditionChange {
  kind: 'changed' | 'new' | 'gone' | 'moved'
  title: string
}

/** The most slides that stand in the same order in both: what is not among them was moved. */
function inSameOrder(earlier: readonly ShownSlide[], later: readonly ShownSlide[]): Set<unknown> {
  const place = new Map(earlier.map((slide, i) => [slide.slideId, i]))
  const common = later.filter((slide) => place.has(slide.slideId))
  let best: typeof common = []
  const endingAt: (typeof common)[] = []
  for (const slide of common) {
    const runs = endingAt.filter((run) => place.get(run.at(-1)!.slideId)! < place.get(slide.slideId)!)
    const run = [...runs.reduce((longest, one) => (one.length > longest.length ? one : longest), [] as typeof common), slide]
    endingAt.push(run)
    if (run.length > best.length) best = run
  }
  return new Set(best.map((slide) => slide.slideId))
}

/** What one edition shows otherwise than an earlier one, slide by slide: in the later one's order, then what is gone. */
export function changesBetween(earlier: readonly ShownSlide[], later: readonly ShownSlide[]): EditionChange[] {
  const before = new Map(earlier.map((slide) => [slide.slideId, slide]))
  const after = new Set(later.map((slide) => slide.slideId))
  const inPlace = inSameOrder(earlier, later)
  return [
    ...later.flatMap(({ slideId, fingerprint, title }): EditionChange[] => {
      const known = before.get(slideId)
      if (!known) return [{ kind: 'new', title }]
      if (known.fingerprint !== fingerprint || known.title !== title) return [{ kind: 'changed', title }]
      return inPlace.has(slideId) ? [] : [{ kind: 'moved', title }]
    }),
    ...earlier.flatMap(({ slideId, title }): EditionChange[] => (after.has(slideId) ? [] : [{ kind: 'gone', title }])),
  ]
}

/** Chapters as a list without levels, for files that know no others: a slide's bookmarks follow it, its section's heading leads it. */
export function flatChapters(
  chapters: readonly Pick<EditionChapter, 'title' | 'section' | 'startSamples' | 'lengthSamples' | 'bookmarks'>[],
): { title: string; startSamples: number; endSamples: number }[] {
  return chapters.flatMap((chapter) => {
    const end = chapter.startSamples + chapter.lengthSamples
    // a bookmark on the very first sample would leave the slide's own entry without time
    const marks = (chapter.bookmarks ?? []).filter((b) => b.startSamples > chapter.startSamples && b.startSamples < end)
    const title = [chapter.section, chapter.title].filter(Boolean).join(': ')
    const entries = [{ title, startSamples: chapter.startSamples }, ...marks]
    return entries.map((entry, i) => ({
      title: entry.title,
      startSamples: entry.startSamples,
      endSamples: entries[i + 1]?.startSamples ?? end,
    }))
  })
}
