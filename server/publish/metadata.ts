/** What is written beside picture and sound inside a file: chapters, title, author, date and captions. */
import { writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { iso6393To1 } from 'iso-639-3'
import { type EditionManifest, flatChapters } from '#core/edition/manifest.ts'
import type { VideoForm } from '#core/edition/video-form.ts'
import type { Ffmpeg } from '#server/media/ffmpeg.ts'

export interface CaptionFile {
  language: string
  label: string
  name: string
  vtt: string
  srt: string
}

type Told = Pick<EditionManifest, 'title' | 'language' | 'chapters' | 'author' | 'date'>

/** FFMETADATA1: the media tool's own text form for chapters; `=`, `;`, `#`, `\` and line ends are escaped. */
function ffmetadata({ title, author, date, chapters }: Told): string {
  const escaped = (text: string) => text.replace(/[=;#\\\n]/g, (c) => `\\${c}`)
  return [
    ';FFMETADATA1',
    `title=${escaped(title)}`,
    ...(author ? [`artist=${escaped(author)}`] : []),
    ...(date ? [`date=${date.slice(0, 10)}`] : []),
    ...flatChapters(chapters).map(
      (c) => `[CHAPTER]\nTIMEBASE=1/48000\nSTART=${c.startSamples}\nEND=${c.endSamples}\ntitle=${escaped(c.title)}\n`,
    ),
  ].join('\n')
}

/** @returns path of the chapters in the media tool's own form */
export async function writeChapters(folder: string, told: Told): Promise<string> {
  const path = join(folder, 'chapters.txt')
  await writeFile(path, ffmetadata(told))
  return path
}

const THREE_LETTERS = new Map(Object.entries(iso6393To1).map(([three, two]) => [two, three]))
/** The code of ISO 639-2/T that containers want for a language tag; `und` where the tag is none. */
export function threeLetters(tag: string): string {
  try {
    const { language } = new Intl.Locale(tag)
    return language.length === 3 ? language : (THREE_LETTERS.get(language) ?? 'und')
  } catch {
    return 'und'
  }
}

const SAFE = ['-protocol_whitelist', 'file']

/** Of a file of the sound alone, with chapters; `audio` names the input's stream. */
const soundAlone = (audio: string, language: string, out: string) => [
  ...['-map', audio, '-map_metadata', '1', '-map_chapters', '1', '-c', 'copy'],
  ...['-metadata:s:a:0', `language=${threeLetters(language)}`, '-movie_timescale', '48000'],
  ...['-movflags', '+faststart', '-f', 'ipod', out],
]

/**
 * Copies picture and sound and adds chapters, title and soft captions; in MP4 `moov` comes first.
 *
 * @param pictures file with the video track
 * @param sound an ADTS stream, or Opus in WebM
 * @param alone where the sound alone is written as well, for it is read once then; null for nowhere
 * @param folder for the small files that go in; it is the caller's to remove
 */
export async function addMetadata(
  tool: Ffmpeg,
  { pictures, sound, out, alone, folder }: { pictures: string; sound: string; out: string; alone: string | null; folder: string },
  container: VideoForm['container'],
  told: Told,
  captions: readonly CaptionFile[],
  signal: AbortSignal,
) {
  const chapters = await writeChapters(folder, told)
  const files = await Promise.all(
    captions.map(async (track, i) => {
      const path = join(folder, `captions-${i}.vtt`)
      await writeFile(path, track.vtt)
      return path
    }),
  )
  const [videoFormat, soundFormat] = container === 'webm' ? ['matroska', 'matroska'] : ['mp4', 'aac']
  const inputs = [
    [...SAFE, '-f', videoFormat, '-i', pictures],
    [...SAFE, '-f', 'ffmetadata', '-i', chapters],
    [...SAFE, '-f', soundFormat, '-i', sound],
    ...files.map((path) => [...SAFE, '-f', 'webvtt', '-i', path]),
  ]
  await tool.run(
    [
      ...inputs.flat(),
      ...['-map', '0:v', '-map', '2:a', ...files.flatMap((_, i) => ['-map', `${i + 3}:s`])],
      ...['-map_metadata', '1', '-map_chapters', '1', '-c', 'copy', '-c:s', container === 'webm' ? 'webvtt' : 'mov_text'],
      ...['v', 'a'].flatMap((kind) => [`-metadata:s:${kind}:0`, `language=${threeLetters(told.language)}`]),
      ...captions.flatMap((track, i) => [`-metadata:s:s:${i}`, `language=${threeLetters(track.language)}`]),
      ...(container === 'webm'
        ? ['-f', 'webm', out]
        : ['-movie_timescale', '48000', '-movflags', '+faststart', '-f', 'mp4', out]),
      ...(alone ? soundAlone('2:a', told.language, alone) : []),
    ],
    { signal },
  )
}

/** A file of the sound alone, where no video has the same sound. */
export async function addSoundMetadata(
  tool: Ffmpeg,
  { sound, out, folder }: { sound: string; out: string; folder: string },
  told: Told,
  signal: AbortSignal,
) {
  const chapters = await writeChapters(folder, told)
  const inputs = [...SAFE, '-f', 'aac', '-i', sound, ...SAFE, '-f', 'ffmetadata', '-i', chapters]
  await tool.run([...inputs, ...soundAlone('0:a', told.language, out)], { signal })
}
