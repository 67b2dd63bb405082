/** Everything out of the lecture: as one open bundle, or in pieces that other programs read. */
import { toast } from 'sonner'
import type { Lecture } from '#core/model/lecture.ts'

const PIECES: { piece: string; words: string; says: string }[] = [
  { piece: 'presentation.pptx', words: 'Narrated presentation', says: 'PPTX that plays and moves on by itself' },
  { piece: 'sounds-m4a', words: 'Sounds, M4A', says: 'small, one a slide' },
  { piece: 'sounds-mp3', words: 'Sounds, MP3', says: 'for old players' },
  { piece: 'sounds-wav', words: 'Sounds, WAV', says: 'as they are, for sound editing' },
  { piece: 'sounds-flac', words: 'Sounds, FLAC', says: 'as they are, in half the room' },
  { piece: 'pictures-png', words: 'Pictures, PNG', says: 'one a slide' },
  { piece: 'pictures-jpeg', words: 'Pictures, JPEG', says: 'smaller' },
  { piece: 'script.md', words: 'Scripts, Markdown', says: 'a heading for each slide' },
  { piece: 'script.txt', words: 'Scripts, plain text', says: '' },
  { piece: 'timings.csv', words: 'Times, CSV', says: 'slide, title, start, length' },
]

/** Keeps a file, and tells what is wrong when there is none. */
async function keep(address: string) {
  const answer = await fetch(address).catch(() => null)
  if (!answer?.ok) {
    const { error } = ((await answer?.json().catch(() => null)) ?? {}) as { error?: string }
    toast.error(error ?? 'Tidy Lectern does not answer. Is it still running? Try again.')
    return
  }
  const name = decodeURIComponent(
    /filename\*=UTF-8''([^;]+)/.exec(answer.headers.get('content-disposition') ?? '')?.[1] ?? 'lecture',
  )
  const url = URL.createObjectURL(await answer.blob())
  const link = document.createElement('a')
  link.href = url
  link.download = name
  link.click()
  setTimeout(() => URL.revokeObjectURL(url), 60_000)
}

export function TakeAway({ lecture }: { lecture: Lecture }) {
  const base = `/api/lectures/${lecture.id}`
  return (
    <details className="mt-4 border-t border-base-300 pt-3 text-sm">
      <summary className="cursor-pointer font-read text-lg font-semibold">Take it away</summary>
      <p className="mt-2">
        <a className="link font-medium" href={`${base}/bundle`}>
          The whole lecture as one bundle
        </a>
        <span className="block text-base-content/75">
          recordings, pictures, scripts, captions and every setting; drop it on any shelf to go on with it
        </span>
      </p>
      <ul className="mt-2 grid gap-1">
        {PIECES.map(({ piece, words, says }) => (
          <li key={piece}>
            <button type="button" className="link" onClick={() => void keep(`${base}/pieces/${piece}`)}>
              {words}
            </button>
            {says && <span className="text-base-content/75"> · {says}</span>}
          </li>
        ))}
      </ul>
    </details>
  )
}
