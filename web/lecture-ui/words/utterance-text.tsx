/** Words of one utterance, as they are read and marked. Drawn again only when something of them changes. */

import { memo } from 'react'
import type { SpokenItem } from '#core/captions/spoken/spoken-items.ts'
import { say } from '#core/words/say.ts'
import { inSeconds } from '#web/components/format.ts'

interface UtteranceTextProps {
  listId: string
  items: readonly SpokenItem[]
  /** Place of the first of them among all items. */
  offset: number
  struck: readonly boolean[]
  /** What of it is marked, by places among all items; −1 for nothing. */
  first: number
  last: number
  /** The item that the keys stand on, and the one that is heard; −1 for none of these. */
  cursor: number
  heard: number
}

const LOOKS: Record<SpokenItem['kind'], string> = {
  script: '',
  repeat: 'italic underline decoration-dotted decoration-2 underline-offset-4',
  beginning: 'italic underline decoration-dotted decoration-2 underline-offset-4',
  unknown: 'chip',
  'filled-pause': 'chip',
  cough: 'chip',
  pause: 'chip',
}

function wordsOf({ kind, text, start, end }: SpokenItem): string {
  const seconds = inSeconds(end - start)
  switch (kind) {
    case 'unknown':
      return say('words not in the script, {seconds}', { seconds })
    case 'filled-pause':
      return say('er, um · {seconds}', { seconds })
    case 'cough':
      return say('cough')
    case 'pause':
      return say('pause · {seconds}', { seconds })
    default:
      return text
  }
}

const titleOf = (kind: SpokenItem['kind']) =>
  kind === 'repeat' ? say('Said again later') : kind === 'beginning' ? say('Begun, and not ended') : undefined

function sameOwnStruck(a: UtteranceTextProps, b: UtteranceTextProps): boolean {
  for (let i = 0; i < a.items.length; i++) if (a.struck[a.offset + i] !== b.struck[b.offset + i]) return false
  return true
}

export const UtteranceText = memo(
  function UtteranceText({ listId, items, offset, struck, first, last, cursor, heard }: UtteranceTextProps) {
    return items.map((item, k) => {
      const i = offset + k
      const isMarked = first >= 0 && i >= first && i <= last
      const look = LOOKS[item.kind]
      const said = wordsOf(item)
      return (
        <span key={i}>
          <span
            id={`${listId}-${i}`}
            data-item={i}
            role="option"
            tabIndex={-1}
            aria-selected={isMarked}
            aria-label={struck[i] ? say('{text}, cut out', { text: said }) : said}
            title={titleOf(item.kind)}
            className={[
              'rounded-sm py-0.5',
              look === 'chip' ? 'border border-dashed border-edge px-1 font-sans text-sm text-base-content/80' : look,
              struck[i] && 'text-base-content/75 line-through decoration-2',
              isMarked && 'bg-secondary/25',
              i === cursor && 'outline-offset-1 outline-primary group-focus-visible:outline-2',
              i === heard && 'shadow-[inset_0_-3px_0_0_var(--color-error)]',
            ]
              .filter(Boolean)
              .join(' ')}
          >
            {said}
          </span>{' '}
        </span>
      )
    })
  },
  (a, b) =>
    a.items === b.items &&
    a.first === b.first &&
    a.last === b.last &&
    a.cursor === b.cursor &&
    a.heard === b.heard &&
    sameOwnStruck(a, b),
)
