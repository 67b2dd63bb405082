/** The keys of the watch page, for who wants to know them, or wants the letters among them off. */
import { type Message, message, say } from '#core/words/say.ts'
import { LetterKeysChoice } from '#web/components/keys/letter-keys-choice.tsx'

const KEYS: [key: Message | string, meaning: Message][] = [
  [message('Space'), message('Play and pause')],
  [message('← and →'), message('Five seconds back and on; slide by slide: slide before and next')],
  ['C', message('Captions on and off')],
  ['F', message('Full screen')],
  ['M', message('Sound off and on')],
  [message('↑ and ↓'), message('In what is said: sentence before and next')],
]

export function Keys() {
  return (
    <details className="mt-6 text-sm">
      <summary className="cursor-pointer font-semibold">{say('Keys')}</summary>
      <dl className="mt-2 grid grid-cols-[auto_1fr] gap-x-4 gap-y-1">
        {KEYS.map(([key, meaning]) => (
          <div key={meaning.id} className="contents">
            <dt>
              <kbd className="rounded border border-current/40 px-1.5 py-0.5 font-sans text-xs">
                {typeof key === 'string' ? key : say(key)}
              </kbd>
            </dt>
            <dd>{say(meaning)}</dd>
          </div>
        ))}
      </dl>
      <LetterKeysChoice />
    </details>
  )
}
