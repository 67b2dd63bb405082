/** A script as it is read out, or the points that are spoken from. */

import { Check } from 'lucide-react'
import { useRef } from 'react'
import { say } from '#core/words/say.ts'
import type { ScriptLook } from './script-look.ts'
import type { ScriptPlace } from './use-following.ts'
import { useSteadyScroll } from './use-steady-scroll.ts'

interface ScriptTextProps {
  sentences: readonly string[]
  /** null where the script is a text. */
  points: readonly string[] | null
  language: string
  look: ScriptLook
  place: ScriptPlace | null
  ticked: readonly number[]
  /** A sentence or a point was pressed. */
  onPick: (at: number) => void
  /** What stands there when there is nothing to read. */
  empty: string
}

/** Words of the sentence that is said: those that were said are pale. */
const Words = ({ sentence, said }: { sentence: string; said: number }) =>
  sentence.split(/\s+/u).map((word, i) => (
    <span key={i} data-word={i} className={i < said ? 'text-base-content/75' : ''}>
      {word}{' '}
    </span>
  ))

function Points({ points, ticked, onPick }: Pick<ScriptTextProps, 'ticked' | 'onPick'> & { points: readonly string[] }) {
  return (
    <ul>
      {points.map((point, i) => {
        const isTicked = ticked.includes(i)
        return (
          <li key={`${i} ${point}`} className="mb-[0.4em]">
            <button
              type="button"
              aria-pressed={isTicked}
              dir="auto"
              className={`flex w-full items-baseline gap-[0.5em] rounded text-start ${isTicked ? 'text-base-content/75' : ''}`}
              onClick={() => onPick(i)}
            >
              <span className="inline-flex size-[0.8em] shrink-0 translate-y-[0.08em] items-center justify-center rounded-sm border border-edge">
                {isTicked && <Check aria-hidden className="size-[0.8em]" />}
              </span>
              <span className={isTicked ? 'line-through decoration-1' : ''}>{point}</span>
            </button>
          </li>
        )
      })}
    </ul>
  )
}

export function ScriptText({ sentences, points, language, look, place, ticked, onPick, empty }: ScriptTextProps) {
  const box = useRef<HTMLDivElement>(null)
  useSteadyScroll(box, points ? null : place)
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a long script is scrolled by keyboard
    <div ref={box} tabIndex={0} lang={language} className="min-h-0 grow overflow-auto pe-2">
      <div
        className={look.font === 'reading' ? 'font-read' : 'font-sans'}
        style={{
          fontSize: look.size,
          lineHeight: 1.5,
          width: `${100 * look.width}%`,
          marginInline: look.width < 1 ? 'auto' : undefined,
          transform: look.isMirrored ? 'scaleX(-1)' : undefined,
        }}
      >
        {sentences.length === 0 && !points && <p className="text-base text-base-content/75">{empty}</p>}
        {points ? (
          <Points points={points} ticked={ticked} onPick={onPick} />
        ) : (
          sentences.map((sentence, i) => (
            // biome-ignore lint/a11y/useKeyWithClickEvents: a hint for the mark, which finds its sentence by itself in the next rest
            <p
              key={i}
              data-sentence={i}
              dir="auto"
              aria-current={i === place?.sentence ? 'true' : undefined}
              onClick={() => onPick(i)}
              className={`mb-[0.45em] border-s-4 ps-3 ${i === place?.sentence ? 'border-primary' : 'border-transparent'} ${place && i < place.sentence ? 'text-base-content/75' : ''}`}
            >
              {i === place?.sentence ? <Words sentence={sentence} said={place.words} /> : sentence}
            </p>
          ))
        )}
        {/* the last lines come up to where one reads */}
        {!points && place && <div className="h-[50vh]" aria-hidden="true" />}
      </div>
      <span className="sr-only">{points ? say('Press a point when you have spoken about it.') : ''}</span>
    </div>
  )
}
