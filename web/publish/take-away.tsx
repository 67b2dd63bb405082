/** Everything out of the lecture: as one open bundle, or in pieces that other programs read. */

import { toast } from 'sonner'
import type { Lecture } from '#core/model/lecture.ts'
import { isMessage, type Message, message, say } from '#core/words/say.ts'

const PIECES: { piece: string; words: Message; says: Message | null }[] = [
  {
    piece: 'presentation.pptx',
    words: message('Narrated presentation'),
    says: message('PPTX that plays and moves on by itself; without questions'),
  },
  { piece: 'sounds-m4a', words: message('Sounds, M4A'), says: message('small, one a slide') },
  { piece: 'sounds-mp3', words: message('Sounds, MP3'), says: message('for old players') },
  { piece: 'sounds-wav', words: message('Sounds, WAV'), says: message('as they are, for sound editing') },
  { piece: 'sounds-flac', words: message('Sounds, FLAC'), says: message('as they are, in half the room') },
  { piece: 'pictures-png', words: message('Pictures, PNG'), says: message('one a slide') },
  { piece: 'pictures-jpeg', words: message('Pictures, JPEG'), says: message('smaller') },
  { piece: 'script.md', words: message('Scripts, Markdown'), says: message('a heading for each slide') },
  { piece: 'script.txt', words: message('Scripts, plain text'), says: null },
  { piece: 'timings.csv', words: message('Times, CSV'), says: message('slide, title, start, length') },
]

/** Keeps a file, and tells what is wrong when there is none. */
async function keep(address: string) {
  const answer = await fetch(address).catch(() => null)
  if (!answer?.ok) {
    const { said } = ((await answer?.json().catch(() => null)) ?? {}) as { said?: unknown }
    toast.error(isMessage(said) ? say(said) : say('Tidy Lectern does not answer. Is it still running? Try again.'))
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
      <summary className="cursor-pointer font-read text-lg font-semibold">{say('Take it away')}</summary>
      <p className="mt-2">
        <a className="link font-medium" href={`${base}/bundle`}>
          {say('The whole lecture as one bundle')}
        </a>
        <span className="block text-base-content/75">
          {say('recordings, pictures, scripts, captions and every setting; drop it on any shelf to go on with it')}
        </span>
      </p>
      <ul className="mt-2 grid gap-1">
        {PIECES.map(({ piece, words, says }) => (
          <li key={piece}>
            <button type="button" className="link" onClick={() => void keep(`${base}/pieces/${piece}`)}>
              {say(words)}
            </button>
            {says && <span className="text-base-content/75"> · {say(says)}</span>}
          </li>
        ))}
      </ul>
    </details>
  )
}
