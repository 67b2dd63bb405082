/** What is said, as a text under the slides' titles. It follows the video until the learner scrolls; a click goes there; words can be found in it. */

import { type KeyboardEvent, useDeferredValue, useEffect, useMemo, useRef, useState } from 'react'
import type { VttCue } from '#core/captions/formats/webvtt/parse.ts'
import { plainWords } from '#core/script/search/plain-words.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { chapterEnd, chapterTitle, type WatchedChapter, type WatchedEdition } from '#web/watch/edition/edition.ts'
import { findInSaid } from '#web/watch/transcript/find-in-said.ts'
import type { LoadedCues } from '#web/watch/transcript/use-cues.ts'

interface TranscriptProps {
  edition: WatchedEdition
  /** Of the captions it is made of. */
  language: string | undefined
  loaded: LoadedCues
  moment: number
  onSeek: (seconds: number) => void
}

interface Part {
  chapter: WatchedChapter
  title: string
  own: VttCue[]
  found: VttCue[]
}

/** Slides with what is said to them; where words are sought, those that have them in their title or their text. */
function partsOf({ chapters }: WatchedEdition, cues: readonly VttCue[], sought: string): { parts: Part[]; count: number } {
  let count = 0
  const words = plainWords(sought).trim()
  const parts = chapters.flatMap((chapter, i): Part[] => {
    const start = toSeconds(chapter.startSamples)
    const own = cues.filter((cue) => cue.start >= start && cue.start < chapterEnd(chapter))
    const title = chapterTitle(chapter, i)
    const { found, count: here } = findInSaid(own, words)
    const inTitle = words !== '' && plainWords(title).includes(words)
    count += here + (inTitle ? 1 : 0)
    return words === '' || here > 0 || inTitle ? [{ chapter, title, own, found }] : []
  })
  return { parts, count }
}

/** Arrows go from sentence to sentence: all of them are one stop of the tab key. */
function moveFocus(event: KeyboardEvent<HTMLElement>) {
  const step = { ArrowDown: 1, ArrowUp: -1 }[event.key]
  if (step === undefined) return
  const links = [...event.currentTarget.querySelectorAll('a')]
  const at = links.indexOf(document.activeElement as HTMLAnchorElement)
  if (at < 0) return
  event.preventDefault()
  links[Math.min(links.length - 1, Math.max(0, at + step))]!.focus()
}

function SaidPart({
  part,
  said,
  stop,
  language,
  onSeek,
}: { part: Part; said: VttCue | undefined; stop: VttCue | undefined } & Pick<TranscriptProps, 'language' | 'onSeek'>) {
  const { chapter, title, own, found } = part
  return (
    <div className="mb-5">
      {chapter.section && <h2 className="mb-2 font-read text-lg font-semibold">{chapter.section}</h2>}
      <h2 className="font-read font-semibold" dir="auto">
        {title}
      </h2>
      {chapter.altText && own.length > 0 && (
        <p className="sr-only">{say('On the slide: {altText}', { altText: chapter.altText })}</p>
      )}
      <p className="font-read leading-relaxed" lang={language} dir="auto">
        {found.map((cue) => (
          // a link flows with its sentence, which a button does not
          <a
            key={cue.start}
            href={`#t=${cue.start.toFixed(1)}`}
            tabIndex={cue === stop ? 0 : -1}
            aria-current={cue === said ? 'true' : undefined}
            onClick={(event) => {
              event.preventDefault()
              onSeek(cue.start)
            }}
            className={`rounded-sm hover:underline ${cue === said ? 'bg-primary/20' : ''}`}
          >
            {`${cue.text.replaceAll('\n', ' ')} `}
          </a>
        ))}
        {own.length === 0 && (
          <span className="text-base-content/75">{say('Nothing is said here. {altText}', { altText: chapter.altText })}</span>
        )}
      </p>
    </div>
  )
}

export function Transcript({ edition, language, loaded, moment, onSeek }: TranscriptProps) {
  const { cues, failed, again } = loaded
  const [typed, setTyped] = useState('')
  const sought = useDeferredValue(typed.trim())
  const [follows, setFollows] = useState(true)
  const list = useRef<HTMLDivElement>(null)
  const said = cues.find((cue) => moment >= cue.start && moment < cue.end)
  const { parts, count } = useMemo(() => partsOf(edition, cues, sought), [edition, cues, sought])
  const shown = parts.flatMap(({ found }) => found)
  // where the tab key comes to the sentences: what is said, where it is among them
  const stop = said && shown.includes(said) ? said : shown[0]
  const saidStart = said?.start
  useEffect(() => {
    if (saidStart === undefined || sought || !follows) return
    const box = list.current
    const line = box?.querySelector<HTMLElement>('[aria-current]')
    if (box && line) box.scrollTop = line.offsetTop - box.clientHeight / 3
  }, [saidStart, sought, follows])
  const leave = () => setFollows(false)
  return (
    <section aria-label={say('Transcript')}>
      <input
        type="search"
        className="input w-full border-edge"
        placeholder={say('Find in what is said')}
        aria-label={say('Find in what is said')}
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
      />
      <p className="mt-2 min-h-6 text-sm" role="status">
        {sought &&
          !failed &&
          (count === 0
            ? say('This is not said, and stands in no title.')
            : say('{count, plural, one {# place} other {# places}}', { count }))}
      </p>
      {failed ? (
        <p role="alert">
          {say('The text could not be loaded; the video plays without it.')}{' '}
          <button type="button" className="link" onClick={again}>
            {say('Try again')}
          </button>
        </p>
      ) : (
        <article
          ref={list}
          aria-label={say('What is said')}
          onWheel={leave}
          onTouchMove={leave}
          onPointerDown={(event) => event.target === list.current && leave()}
          onKeyDown={moveFocus}
          className="relative max-h-[70vh] overflow-auto"
        >
          {parts.map((part) => (
            <SaidPart
              key={part.chapter.startSamples}
              part={part}
              said={said}
              stop={stop}
              language={language}
              onSeek={(seconds) => {
                setFollows(true)
                onSeek(seconds)
              }}
            />
          ))}
        </article>
      )}
      {!follows && !sought && (
        <Button className="mt-2" onClick={() => setFollows(true)}>
          {say('Follow again')}
        </Button>
      )}
    </section>
  )
}
