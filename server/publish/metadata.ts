/** What is written beside picture and sound: chapters, title and captions inside the MP4, and the files around it. */
import { writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { writeWebVtt } from '#core/captions/webvtt/write.ts'
import type { EditionPlan } from '#core/edition/plan.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import type { MediaTool } from '#server/media/tool.ts'

export interface CaptionFile {
  language: string
  label: string
  name: string
  vtt: string
  srt: string
}

/** FFMETADATA1: the media tool's own text form for chapters; `=`, `;`, `#`, `\` and line ends are escaped. */
function ffmetadata(plan: EditionPlan): string {
  const escaped = (text: string) => text.replace(/[=;#\\\n]/g, (c) => `\\${c}`)
  const chapters = plan.slides.map(
    (s) =>
      `[CHAPTER]\nTIMEBASE=1/48000\nSTART=${s.startSamples}\nEND=${s.startSamples + s.lengthSamples}\ntitle=${escaped(s.title)}\n`,
  )
  return [';FFMETADATA1', `title=${escaped(plan.title)}`, ...chapters].join('\n')
}

/** Chapters as WebVTT, for the watch page and other players. */
export function chaptersVtt(plan: EditionPlan): string {
  return writeWebVtt(
    plan.slides.map((s) => ({
      start: toSeconds(s.startSamples),
      end: toSeconds(s.startSamples + s.lengthSamples),
      text: s.title,
      settings: '',
    })),
  )
}

/** ISO 639-2 codes as MP4 wants them; others stay undetermined inside the file, the .vtt keeps them. */
const THREE_LETTERS: Record<string, string> = {
  en: 'eng',
  fr: 'fra',
  es: 'spa',
  de: 'deu',
  it: 'ita',
  pt: 'por',
  nl: 'nld',
  ar: 'ara',
  ru: 'rus',
  zh: 'zho',
  ja: 'jpn',
}

/**
 * Copies picture and sound and adds chapters, title and soft captions, `moov` first.
 *
 * @param folder for the small files that go in; it is the caller's to remove
 */
export async function addMetadata(
  tool: MediaTool,
  from: string,
  out: string,
  folder: string,
  plan: EditionPlan,
  captions: readonly CaptionFile[],
  signal: AbortSignal,
) {
  const chapters = join(folder, 'chapters.txt')
  await writeFile(chapters, ffmetadata(plan))
  const files = await Promise.all(
    captions.map(async (track, i) => {
      const path = join(folder, `captions-${i}.vtt`)
      await writeFile(path, track.vtt)
      return path
    }),
  )
  const three = (language: string) => THREE_LETTERS[language.split('-')[0]!.toLowerCase()] ?? 'und'
  const safe = ['-protocol_whitelist', 'file']
  await tool.run(
    [
      ...[...safe, '-f', 'mp4', '-i', from, ...safe, '-f', 'ffmetadata', '-i', chapters],
      ...files.flatMap((path) => [...safe, '-f', 'webvtt', '-i', path]),
      ...['-map', '0:v', '-map', '0:a', ...files.flatMap((_, i) => ['-map', `${i + 2}:s`])],
      ...['-map_metadata', '1', '-map_chapters', '1', '-c', 'copy', '-c:s', 'mov_text'],
      ...['-metadata:s:a:0', `language=${three(plan.language)}`],
      ...captions.flatMap((track, i) => [`-metadata:s:s:${i}`, `language=${three(track.language)}`]),
      ...['-movflags', '+faststart', '-f', 'mp4', out],
    ],
    { signal },
  )
}
