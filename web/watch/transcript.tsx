/** What is said, as a text under the slides' titles. It follows the video; a click goes there; words can be found in it. */
import { Fragment, useDeferredValue, useEffect, useRef, useState } from 'react'
import type { VttCue } from '#core/captions/formats/webvtt/parse.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import type { WatchedEdition } from './edition.ts'

interface TranscriptProps {
  edition: WatchedEdition
  /** Of the captions it is made of. */
  language: string | undefined
  cues: VttCue[]
  moment: number
  onSeek: (seconds: number) => void
}

export function Transcript({ edition, language, cues, moment, onSeek }: TranscriptProps) {
  const [sought, setSought] = useState('')
  const words = useDeferredValue(sought.trim().toLowerCase())
  const list = useRef<HTMLDivElement>(null)
  const said = cues.find((cue) => moment >= cue.start && moment < cue.end)
  const saidStart = said?.start
  useEffect(() => {
    if (saidStart === undefined || words) return
    const box = list.current
    const line = box?.querySelector<HTMLElement>('[aria-current]')
    if (box && line) box.scrollTop = line.offsetTop - box.clientHeight / 3
  }, [saidStart, words])
  return (
    <section aria-label="Transcript">
      <input
        type="search"
        className="input w-full border-edge"
        placeholder="Find in what is said"
        aria-label="Find in what is said"
        value={sought}
        onChange={(event) => setSought(event.target.value)}
      />
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a long text is scrolled by keyboard */}
      <div ref={list} tabIndex={0} className="relative mt-4 max-h-[70vh] overflow-auto">
        {edition.chapters.map((chapter, i) => {
          const start = toSeconds(chapter.startSamples)
          const own = cues.filter((cue) => cue.start >= start && cue.start < start + toSeconds(chapter.lengthSamples))
          const found = words ? own.filter((cue) => cue.text.replaceAll('\n', ' ').toLowerCase().includes(words)) : own
          if (words && found.length === 0) return null
          return (
            <div key={chapter.startSamples} className="mb-5">
              {chapter.section && <h2 className="mb-2 font-read text-lg font-semibold">{chapter.section}</h2>}
              <h2 className="font-read font-semibold">{chapter.title || `Slide ${i + 1}`}</h2>
              <p className="font-read leading-relaxed" lang={language} dir="auto">
                {found.map((cue) => (
                  <Fragment key={cue.start}>
                    {/* a link flows with its sentence, which a button does not */}
                    <a
                      href={`#t=${cue.start.toFixed(1)}`}
                      aria-current={cue === said ? 'true' : undefined}
                      onClick={(event) => {
                        event.preventDefault()
                        onSeek(cue.start)
                      }}
                      className={`rounded-sm hover:underline ${cue === said ? 'bg-primary/20' : ''}`}
                    >
                      {cue.text.replaceAll('\n', ' ')}
                    </a>{' '}
                  </Fragment>
                ))}
                {!words && own.length === 0 && (
                  <span className="text-base-content/75">Nothing is said here. {chapter.altText}</span>
                )}
              </p>
            </div>
          )
        })}
      </div>
    </section>
  )
}
