/** The keys: all of them to see, and the letters among them to turn off. */

import { Suspense, useState } from 'react'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { LetterKeysChoice } from '#web/components/keys/letter-keys-choice.tsx'
import { soon } from '#web/components/soon.ts'

const KeyList = soon(async () => (await import('#web/components/keys/key-list.tsx')).KeyList)

export function KeySettings() {
  const [keysShown, setKeysShown] = useState(false)
  return (
    <section aria-labelledby="keys-heading">
      <h2 id="keys-heading" className="mb-2 font-read text-xl font-semibold">
        {say('Keys')}
      </h2>
      <LetterKeysChoice />
      <p className="text-sm text-base-content/75">
        {say('Off, nothing happens by a letter that is said or touched by accident. Every key has a button.')}
      </p>
      <Button className="mt-2" onClick={() => setKeysShown(true)}>
        {say('See all keys')}
      </Button>
      <Suspense>{keysShown && <KeyList onClose={() => setKeysShown(false)} />}</Suspense>
    </section>
  )
}
