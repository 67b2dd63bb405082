/** Above the lectures where there are many: words to find some by, and whose are shown. */

import { useEffect, useState } from 'react'
import { say } from '#core/words/say.ts'
import { SearchField } from '#web/components/fields/search-field.tsx'
import { peopleApi } from '#web/data/endpoints/people.ts'
import type { ShelfAsked } from '#web/data/endpoints/shelf.ts'
import { isSchool } from '#web/sign-in/is-school.ts'

/** Typing comes to rest before the server is asked. */
const SETTLED_MS = 250

interface ShelfHeadProps {
  asked: ShelfAsked
  /** Of all lectures that fit; null until it is known. */
  total: number | null
  onAsk: (asked: ShelfAsked) => void
}

export function ShelfHead({ asked, total, onAsk }: ShelfHeadProps) {
  const [typed, setTyped] = useState(asked.words)
  const { data: spaces = [] } = peopleApi.useSpacesQuery(undefined, { skip: !isSchool() })
  // biome-ignore lint/correctness/useExhaustiveDependencies: asked again when something else was typed, not when it is answered
  useEffect(() => {
    if (typed.trim() === asked.words) return
    const timer = setTimeout(() => onAsk({ ...asked, words: typed.trim() }), SETTLED_MS)
    return () => clearTimeout(timer)
  }, [typed])
  return (
    <search className="flex flex-wrap items-center gap-3 border-b border-base-300 pb-4">
      <SearchField
        className="w-80 max-w-full"
        aria-label={say('Find lectures by their words')}
        placeholder={say('Title, or words of a script')}
        value={typed}
        onSeek={setTyped}
      />
      {isSchool() && (
        <select
          className="select select-sm w-56 border-edge bg-base-100"
          aria-label={say('Whose lectures are shown')}
          value={asked.of}
          onChange={({ target }) => onAsk({ words: typed.trim(), of: target.value })}
        >
          <option value="">{say('All that I may see')}</option>
          <option value="own">{say('My own')}</option>
          {spaces.map((space) => (
            <option key={space.id} value={space.id}>
              {space.name}
            </option>
          ))}
        </select>
      )}
      <output className="text-sm text-base-content/75">
        {total !== null && say('{total, plural, one {# lecture} other {# lectures}}', { total })}
      </output>
    </search>
  )
}
