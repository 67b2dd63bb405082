/** A line to type what is said where nobody knows the words. */

import { useState } from 'react'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'

export function GapField({ onSaid }: { onSaid: (said: string) => void }) {
  const [said, setSaid] = useState('')
  const isEmpty = said.trim() === ''
  return (
    <form
      className="flex w-full flex-wrap items-center gap-2 pt-1"
      onSubmit={(event) => {
        event.preventDefault()
        if (!isEmpty) onSaid(said)
      }}
    >
      <label className="flex min-w-0 grow items-center gap-2">
        {say('What is said here')}
        <input
          className="input input-sm min-w-0 grow border-edge bg-base-100 font-read"
          dir="auto"
          value={said}
          maxLength={2000}
          onChange={({ target }) => setSaid(target.value)}
        />
      </label>
      <Button size="xs" type="submit" disabled={isEmpty}>
        {say('Into the script')}
      </Button>
    </form>
  )
}
