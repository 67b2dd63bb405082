/** Who else looks at this lecture now, and at which slide. */

import { useEffect, useState } from 'react'
import { useParams } from 'react-router'
import type { Lecture } from '#core/model/lecture.ts'
import { say } from '#core/words/say.ts'
import { api } from '#web/data/api.ts'
import { signInApi } from '#web/data/endpoints/sign-in.ts'

/** The server takes a page for gone that was silent for more than twice as long. */
const EVERY_MS = 20_000
const MOST_SHOWN = 4

const initialsOf = (name: string) =>
  name
    .split(/\s+/)
    .slice(0, 2)
    .map((word) => [...word][0] ?? '')
    .join('')

export function WhoIsHere({ lecture }: { lecture: Lecture }) {
  const [page] = useState(() => crypto.randomUUID())
  const { slideId = null } = useParams()
  const { data: me } = signInApi.useMeQuery()
  const { data } = api.useHereQuery({ lectureId: lecture.id, page, slideId }, { pollingInterval: EVERY_MS })
  useEffect(() => {
    const go = () =>
      void fetch(`/api/lectures/${lecture.id}/here`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ page, slideId: null, isHere: false }),
        // it arrives though the page is gone
        keepalive: true,
      }).catch(() => {})
    window.addEventListener('pagehide', go)
    return () => {
      window.removeEventListener('pagehide', go)
      go()
    }
  }, [lecture.id, page])
  const others = (data?.people ?? []).filter((one) => one.personId !== me?.person?.id)
  if (others.length === 0) return null
  const says = (one: (typeof others)[number]) => {
    const at = lecture.slides.findIndex((slide) => slide.id === one.slideId)
    return at < 0
      ? say('{name} looks at the whole lecture', { name: one.name })
      : say('{name} has slide {number} open', { name: one.name, number: at + 1 })
  }
  return (
    <ul className="flex -space-x-1.5" aria-label={say('Who else is here')}>
      {others.slice(0, MOST_SHOWN).map((one) => (
        <li
          key={one.personId}
          title={says(one)}
          className="grid size-7 place-items-center rounded-full border border-edge bg-base-200 text-xs font-semibold"
        >
          <span aria-hidden>{initialsOf(one.name)}</span>
          <span className="sr-only">{says(one)}</span>
        </li>
      ))}
      {others.length > MOST_SHOWN && (
        <li className="grid size-7 place-items-center rounded-full border border-edge bg-base-200 text-xs">
          {`+${others.length - MOST_SHOWN}`}
        </li>
      )}
    </ul>
  )
}
