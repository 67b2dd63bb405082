/** A take as it was said: words are marked as in any text, and what is done to them is done to the sound. */

import { type KeyboardEvent, type PointerEvent, useEffect, useId, useMemo, useRef, useState } from 'react'
import { type ItemRun, type SpokenItem, struckRun } from '#core/captions/spoken/spoken-items.ts'
import { say } from '#core/words/say.ts'
import type { WordMarks } from './use-word-marks.ts'
import { UtteranceText } from './utterance-text.tsx'

interface TakeWordsProps {
  marks: WordMarks
  language: string
  /** Where the take stands, seconds of it, and whether it plays. */
  moment: number
  playing: boolean
  onSeek: (moment: number) => void
  onPlay: (moment: number) => void
  /** Keys that are those of the sound. */
  onKey: (event: KeyboardEvent) => void
}

interface Utterance {
  offset: number
  items: SpokenItem[]
}

function utterancesOf(items: readonly SpokenItem[]): Utterance[] {
  const out: Utterance[] = []
  for (const [i, item] of items.entries()) {
    const last = out.at(-1)
    if (last && last.items[0]!.utterance === item.utterance) last.items.push(item)
    else out.push({ offset: i, items: [item] })
  }
  return out
}

const ordered = (a: number, b: number): ItemRun => ({ first: Math.min(a, b), last: Math.max(a, b) })

/** Item under a pointer; null beside the words. */
function itemAt({ clientX, clientY }: PointerEvent): number | null {
  const found = document.elementFromPoint(clientX, clientY)?.closest('[data-item]')
  return found ? Number(found.getAttribute('data-item')) : null
}

/** Marks items by mouse, pen and finger. */
function usePointer(marks: WordMarks, onMark: (cursor: number, anchor: number) => void) {
  const pressed = useRef<{ at: number; moved: boolean } | null>(null)
  return {
    onPointerDown(event: PointerEvent) {
      const at = itemAt(event)
      if (event.button !== 0 || at === null) return
      if (event.pointerType !== 'touch') event.currentTarget.setPointerCapture(event.pointerId)
      pressed.current = { at, moved: false }
    },
    onPointerMove(event: PointerEvent) {
      const at = pressed.current && itemAt(event)
      if (at === null || !pressed.current || (at === pressed.current.at && !pressed.current.moved)) return
      pressed.current.moved = true
      onMark(at, pressed.current.at)
    },
    onPointerUp(event: PointerEvent) {
      const press = pressed.current
      pressed.current = null
      if (!press || press.moved) return
      const { marked, isByWords, struck } = marks
      const isOutside = marked !== null && (press.at < marked.first || press.at > marked.last)
      // with a finger the second touch goes on from the first, as with Shift
      if (marked && isByWords && isOutside && (event.shiftKey || event.pointerType === 'touch')) {
        onMark(press.at, press.at < marked.first ? marked.last : marked.first)
        return
      }
      // what was cut out comes back as a whole
      const { first, last } = struckRun(struck, press.at)
      onMark(last, first)
    },
    onPointerCancel() {
      pressed.current = null
    },
  }
}

export function TakeWords({ marks, language, moment, playing, onSeek, onPlay, onKey }: TakeWordsProps) {
  const { items, struck, marked, markItems, isTimed } = marks
  const id = useId()
  const list = useRef<HTMLDivElement>(null)
  const [cursor, setCursor] = useState(0)
  const anchor = useRef(0)
  const utterances = useMemo(() => utterancesOf(items), [items])
  const mark = (to: number, from: number) => {
    anchor.current = from
    setCursor(to)
    markItems(ordered(from, to))
    onSeek(items[Math.min(from, to)]!.start)
  }
  const pointer = usePointer(marks, mark)
  const heard = playing ? items.findLastIndex((item) => item.start <= moment) : -1
  useEffect(() => {
    const box = list.current
    const word = document.getElementById(`${id}-${heard >= 0 ? heard : cursor}`)
    if (!box || !word) return
    // within its own box only: the page stays where it is
    const [top, bottom] = [word.offsetTop - box.offsetTop, word.offsetTop - box.offsetTop + word.offsetHeight]
    if (top < box.scrollTop || bottom > box.scrollTop + box.clientHeight) box.scrollTop = top - box.clientHeight / 3
  }, [id, cursor, heard])
  if (items.length === 0) return null

  const keys = (event: KeyboardEvent) => {
    const backwards = getComputedStyle(event.currentTarget).direction === 'rtl'
    const step = event.key === 'ArrowLeft' ? (backwards ? 1 : -1) : event.key === 'ArrowRight' ? (backwards ? -1 : 1) : 0
    const to = event.key === 'Home' ? 0 : event.key === 'End' ? items.length - 1 : cursor + step
    if (event.ctrlKey || event.metaKey || event.altKey) return
    if (step !== 0 || event.key === 'Home' || event.key === 'End') {
      const at = Math.max(0, Math.min(items.length - 1, to))
      mark(at, event.shiftKey ? anchor.current : at)
      event.preventDefault()
      event.stopPropagation()
    } else if (event.key === 'Enter') {
      // from what was cut out back into what is heard; else it is heard
      if (struck[cursor]) marks.restore()
      else onPlay(items[cursor]!.start - 0.05)
      event.preventDefault()
      event.stopPropagation()
    } else onKey(event)
  }
  const within = (at: number, { offset, items: own }: Utterance) => (at >= offset && at < offset + own.length ? at : -1)
  return (
    <div className="mt-1">
      <p className="mb-1 flex flex-wrap items-baseline gap-x-3 text-sm">
        <span className="font-medium" id={`${id}-name`}>
          {say('As it was said')}
        </span>
        <span className="text-base-content/75">
          {isTimed
            ? say('Mark words to cut them out; what is struck out comes back the same way.')
            : say('Mark words to cut them out. Where they are is told by the captions, roughly: listen first.')}
        </span>
      </p>
      <div
        ref={list}
        role="listbox"
        aria-multiselectable="true"
        aria-labelledby={`${id}-name`}
        aria-activedescendant={`${id}-${cursor}`}
        tabIndex={0}
        lang={language}
        dir="auto"
        className="group max-h-36 touch-pan-y overflow-auto rounded border border-base-300 bg-base-100 px-3 py-2 font-read text-lg leading-relaxed select-none"
        onKeyDown={keys}
        // the list has the focus, not the word that was pressed
        onMouseDown={(event) => {
          event.preventDefault()
          list.current?.focus({ preventScroll: true })
        }}
        {...pointer}
      >
        {utterances.map((utterance) => {
          const end = utterance.offset + utterance.items.length - 1
          const isMarked = marked !== null && marked.first <= end && marked.last >= utterance.offset
          return (
            <UtteranceText
              key={utterance.offset}
              listId={id}
              items={utterance.items}
              offset={utterance.offset}
              struck={struck}
              first={isMarked ? Math.max(marked.first, utterance.offset) : -1}
              last={isMarked ? Math.min(marked.last, end) : -1}
              cursor={within(cursor, utterance)}
              heard={within(heard, utterance)}
            />
          )
        })}
      </div>
    </div>
  )
}
