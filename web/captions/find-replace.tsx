/** Finds words in the captions and puts others in their place. */

import { useState } from 'react'
import { toast } from 'sonner'
import { countFound, replaceAll } from '#core/captions/edit/edit-cues.ts'
import type { CaptionTrack } from '#core/model/caption.ts'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import type { CaptionEdits } from './use-caption-edits.ts'

export function FindReplace({
  track,
  edit,
  onFound,
}: {
  track: CaptionTrack
  edit: CaptionEdits
  onFound: (cueId: string) => void
}) {
  const [find, setFind] = useState('')
  const [put, setPut] = useState('')
  const [matchCase, setMatchCase] = useState(false)
  const [at, setAt] = useState(0)
  const found = find.trim() === '' ? [] : track.cues.filter((cue) => countFound([cue], find, matchCase) > 0)
  const count = countFound(found, find, matchCase)
  const next = () => {
    const cue = found[at % Math.max(1, found.length)]
    if (cue) onFound(cue.id)
    setAt(at + 1)
  }
  return (
    <search aria-label={say('Find and replace')}>
      <form
        className="flex flex-wrap items-center gap-2 text-sm"
        onSubmit={(event) => {
          event.preventDefault()
          next()
        }}
      >
        <input
          type="search"
          aria-label={say('Find in the captions')}
          placeholder={say('Find')}
          className="input input-sm w-40 border-edge bg-base-100"
          value={find}
          onChange={({ target }) => {
            setFind(target.value)
            setAt(0)
          }}
        />
        <input
          aria-label={say('Put in its place')}
          placeholder={say('Put in its place')}
          className="input input-sm w-40 border-edge bg-base-100"
          value={put}
          onChange={({ target }) => setPut(target.value)}
        />
        <label className="flex items-center gap-1.5">
          <input
            type="checkbox"
            className="checkbox checkbox-xs border-edge"
            checked={matchCase}
            onChange={({ target }) => setMatchCase(target.checked)}
          />
          {say('match capitals')}
        </label>
        <Button type="submit" disabled={count === 0}>
          {say('Next')}
        </Button>
        {track.origin !== 'translation' && (
          <Button
            disabled={count === 0}
            onClick={() => {
              const changed = edit.changeAll(say('replacing “{find}”', { find }), (cues) =>
                replaceAll(cues, find, put, matchCase, edit.breakLines),
              )
              toast(
                say('{changed, plural, one {# caption} other {# captions}} changed. Undo takes all of it back at once.', {
                  changed,
                }),
              )
            }}
          >
            {say('Replace all')}
          </Button>
        )}
        <output className="text-base-content/75">{find.trim() !== '' && say('{count} found', { count })}</output>
      </form>
    </search>
  )
}
