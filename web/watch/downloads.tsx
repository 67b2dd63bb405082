/** What the teacher lets learners keep. */
import type { Source } from '#web/watch/edition/edition.ts'

const MEGABYTE = 1e6
const sizeOf = (bytes: number) =>
  bytes < MEGABYTE / 10 ? '' : ` (${(bytes / MEGABYTE).toFixed(bytes < 10 * MEGABYTE ? 1 : 0)} MB)`

export function Downloads({ source: { edition, fileUrl, folderUrl } }: { source: Source }) {
  const words = (name: string) => {
    const video = edition.videos.find((v) => v.file === name)
    if (video) return `Video, ${video.height} lines${video.contentType === 'video/webm' ? ', WebM' : ', MP4'}`
    const track = edition.captions.find((t) => t.file === name || t.file.replace(/vtt$/, 'srt') === name)
    if (track) return `Captions, ${track.label}, ${name.endsWith('srt') ? 'SRT' : 'WebVTT'}`
    if (name.startsWith('chapters'))
      return `Chapters, ${new Intl.DisplayNames('en', { type: 'language' }).of(name.split('.')[1]!)}, WebVTT`
    if (name.startsWith('sound')) return `Sound alone, ${name.endsWith('mp3') ? 'MP3' : 'M4A'}`
    return `Transcript, ${name.endsWith('html') ? 'web page' : 'plain text'}`
  }
  if (edition.files.length === 0 && !folderUrl && !edition.hasTranscript) return null
  return (
    <section aria-label="To keep" className="mt-6 text-sm">
      {edition.hasTranscript && (
        <p className="mb-3">
          <a className="link" href={fileUrl('transcript.html')} target="_blank" rel="noreferrer">
            Transcript to print
          </a>
        </p>
      )}
      {(edition.files.length > 0 || folderUrl) && (
        <details>
          <summary className="cursor-pointer font-semibold">Download</summary>
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
                  This page with everything in it, to keep on a stick (zip)
                </a>
              </li>
            )}
          </ul>
        </details>
      )}
    </section>
  )
}
