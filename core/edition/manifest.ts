/** What an edition says of itself: kept with it and published as manifest.json. */
import type { Preset } from './making.ts'

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
  /** Whose chapter it is, and a number that tells whether the slide has changed since; absent in early editions. */
  slideId?: string
  fingerprint?: number
  /** Places in what is said, samples of the lecture; absent in early editions. */
  bookmarks?: { title: string; startSamples: number }[]
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
  /** Every other file beside this one. */
  files?: { name: string; bytes: number; sha256: string }[]
}

/** The videos of an edition; early ones had one and did not say so. */
export function videosOf(manifest: EditionManifest): EditionVideo[] {
  return (
    manifest.videos ?? [{ preset: 'standard', file: 'video.mp4', contentType: 'video/mp4', width: 1920, height: 1080, bytes: 0 }]
  )
}

export interface EditionChange {
  kind: 'changed' | 'new' | 'gone'
  title: string
}

/** What one edition shows otherwise than an earlier one, slide by slide. */
export function changesBetween(
  earlier: Pick<EditionManifest, 'chapters'>,
  later: Pick<EditionManifest, 'chapters'>,
): EditionChange[] {
  const before = new Map(earlier.chapters.map((chapter) => [chapter.slideId, chapter]))
  const after = new Set(later.chapters.map((chapter) => chapter.slideId))
  return [
    ...later.chapters.flatMap((chapter): EditionChange[] => {
      const known = before.get(chapter.slideId)
      if (known?.fingerprint === chapter.fingerprint && known?.title === chapter.title) return []
      return [{ kind: known ? 'changed' : 'new', title: chapter.title }]
    }),
    ...earlier.chapters.flatMap((chapter): EditionChange[] =>
      after.has(chapter.slideId) ? [] : [{ kind: 'gone', title: chapter.title }],
    ),
  ]
}

/** Chapters as a list without levels, for files that know no others: a slide's bookmarks follow it. */
export function flatChapters(
  chapters: readonly Pick<EditionChapter, 'title' | 'startSamples' | 'lengthSamples' | 'bookmarks'>[],
): { title: string; startSamples: number; endSamples: number }[] {
  return chapters.flatMap((chapter) => {
    const end = chapter.startSamples + chapter.lengthSamples
    // a bookmark on the very first sample would leave the slide's own entry without time
    const marks = (chapter.bookmarks ?? []).filter((b) => b.startSamples > chapter.startSamples && b.startSamples < end)
    const entries = [{ title: chapter.title, startSamples: chapter.startSamples }, ...marks]
    return entries.map((entry, i) => ({
      title: entry.title,
      startSamples: entry.startSamples,
      endSamples: entries[i + 1]?.startSamples ?? end,
    }))
  })
}
