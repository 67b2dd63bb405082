/** The small files of an edition: captions, chapters, transcript. */

import { writeSubRip } from '#core/captions/formats/subrip.ts'
import { writeWebVtt } from '#core/captions/formats/webvtt/write.ts'
import { chaptersOnLecture } from '#core/captions/tracks/chapter-tracks.ts'
import type { LectureCue } from '#core/captions/tracks/place-cues.ts'
import { publishedCues, publishedTracks } from '#core/captions/tracks/published-tracks.ts'
import { type EditionManifest, flatChapters } from '#core/edition/manifest.ts'
import { transcriptHtml, transcriptOf, transcriptText } from '#core/edition/transcript.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import type { CaptionFile } from './metadata.ts'

export interface TextFile {
  name: string
  contentType: string
  text: string
}

export function captionFiles(lecture: Lecture): (CaptionFile & { cues: LectureCue[] })[] {
  return publishedTracks(lecture).map((track) => {
    const cues = publishedCues(lecture, track)
    return {
      language: track.language,
      label: new Intl.DisplayNames([track.language], { type: 'language' }).of(track.language) ?? track.language,
      name: `captions.${track.language}.vtt`,
      vtt: writeWebVtt(cues),
      srt: writeSubRip(cues),
      cues,
    }
  })
}

/** Chapters as WebVTT, for players other than ours. */
export function chaptersVtt(chapters: EditionManifest['chapters']): string {
  return writeWebVtt(
    flatChapters(chapters).map((c) => ({
      start: toSeconds(c.startSamples),
      end: toSeconds(c.endSamples),
      text: c.title,
      settings: '',
    })),
  )
}

/** Chapters that somebody attached, one file a language. */
export function chapterFiles(lecture: Lecture): TextFile[] {
  return lecture.chapterTracks.map((track) => ({
    name: `chapters.${track.language}.vtt`,
    contentType: 'text/vtt; charset=utf-8',
    text: writeWebVtt(chaptersOnLecture(lecture, track.cues)),
  }))
}

export function editionTexts(manifest: EditionManifest, captions: ReturnType<typeof captionFiles>): TextFile[] {
  // one for each language of captions; that of the first has the plain name
  const transcripts = (captions.length > 0 ? captions : [null]).flatMap((track, i) => {
    const language = track?.language ?? manifest.language
    const heading = { title: manifest.title, author: manifest.author ?? '', language }
    const parts = transcriptOf({ ...manifest, language }, track?.cues ?? [])
    const name = i === 0 ? 'transcript' : `transcript.${language}`
    return [
      { name: `${name}.html`, contentType: 'text/html; charset=utf-8', text: transcriptHtml(heading, parts) },
      { name: `${name}.txt`, contentType: 'text/plain; charset=utf-8', text: transcriptText(heading, parts) },
    ]
  })
  return [
    ...captions.flatMap((track) => [
      { name: track.name, contentType: 'text/vtt; charset=utf-8', text: track.vtt },
      { name: track.name.replace(/vtt$/, 'srt'), contentType: 'application/x-subrip; charset=utf-8', text: track.srt },
    ]),
    { name: 'chapters.vtt', contentType: 'text/vtt; charset=utf-8', text: chaptersVtt(manifest.chapters) },
    ...transcripts,
  ]
}
