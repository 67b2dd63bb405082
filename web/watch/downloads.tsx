/** What the teacher lets learners keep. */

import { languageName } from '#core/words/language-name.ts'
import { say } from '#core/words/say.ts'
import { megabytes } from '#web/components/format.ts'
import type { Source } from '#web/watch/edition/edition.ts'

const MEGABYTE = 1e6
const sizeOf = (bytes: number) => (bytes < MEGABYTE / 10 ? '' : ` (${megabytes(bytes)})`)

export function Downloads({ source: { edition, fileUrl, folderUrl } }: { source: Source }) {
  /** Of a transcript: in its name, or that of the first captions. */
  const languageOf = (name: string) =>
    /^transcript\.([\w-]+)\.(html|txt)$/.exec(name)?.[1] ?? edition.captions[0]?.language ?? edition.language
  const words = (name: string) => {
    const video = edition.videos.find((v) => v.file === name)
    if (video)
      return say('Video, {height} lines, {format}', {
        height: video.height,
        format: video.contentType === 'video/webm' ? 'WebM' : 'MP4',
      })
    const track = edition.captions.find((t) => t.file === name || t.file.replace(/vtt$/, 'srt') === name)
    if (track) return say('Captions, {label}, {format}', { label: track.label, format: name.endsWith('srt') ? 'SRT' : 'WebVTT' })
    if (name.startsWith('chapters')) return say('Chapters, {language}, WebVTT', { language: languageName(name.split('.')[1]!) })
    if (name.startsWith('sound')) return say('Sound alone, {format}', { format: name.endsWith('mp3') ? 'MP3' : 'M4A' })
    const language = languageName(languageOf(name))
    return name.endsWith('html')
      ? say('Transcript, {language}, web page', { language })
      : say('Transcript, {language}, plain text', { language })
  }
  if (edition.files.length === 0 && !folderUrl && edition.transcripts.length === 0) return null
  return (
    <section aria-label={say('To keep')} className="mt-6 text-sm">
      {edition.transcripts.length > 0 && (
        <ul className="mb-3 grid gap-1">
          {edition.transcripts.map((name) => (
            <li key={name}>
              <a className="link" href={fileUrl(name)} target="_blank" rel="noreferrer">
                {edition.transcripts.length === 1
                  ? say('Transcript to print')
                  : say('Transcript to print, {language}', { language: languageName(languageOf(name)) })}
              </a>
            </li>
          ))}
        </ul>
      )}
      {(edition.files.length > 0 || folderUrl) && (
        <details>
          <summary className="cursor-pointer font-semibold">{say('Download')}</summary>
          <ul className="mt-2 grid gap-1">
            {edition.files.map(({ name, bytes }) => (
              <li key={name}>
                <a className="link" href={`${fileUrl(name)}?download`}>
                  {words(name)}
                </a>
                {sizeOf(bytes)}
              </li>
            ))}
            {folderUrl && (
              <li>
                <a className="link" href={folderUrl}>
                  {say('This page with everything in it, to keep on a stick (zip)')}
                </a>
              </li>
            )}
          </ul>
        </details>
      )}
    </section>
  )
}
