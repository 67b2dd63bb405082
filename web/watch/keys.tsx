/** The keys of the watch page, for who wants to know them, or wants the letters among them off. */
import { LetterKeysChoice } from '#web/components/keys/letter-keys-choice.tsx'

const KEYS: [key: string, meaning: string][] = [
  ['Space', 'Play and pause'],
  ['← and →', 'Five seconds back and on; slide by slide: slide before and next'],
  ['C', 'Captions on and off'],
  ['F', 'Full screen'],
  ['M', 'Sound off and on'],
  ['↑ and ↓', 'In what is said: sentence before and next'],
]

export function Keys() {
  return (
    <details className="mt-6 text-sm">
      <summary className="cursor-pointer font-semibold">Keys</summary>
      <dl className="mt-2 grid grid-cols-[auto_1fr] gap-x-4 gap-y-1">
        {KEYS.map(([key, meaning]) => (
          <div key={key} className="contents">
            <dt>
              <kbd className="rounded border border-current/40 px-1.5 py-0.5 font-sans text-xs">{key}</kbd>
            </dt>
            <dd>{meaning}</dd>
          </div>
        ))}
      </dl>
      <LetterKeysChoice />
    </details>
  )
}
