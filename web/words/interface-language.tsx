/** The language in which these pages speak, to be chosen. */
import { Languages } from 'lucide-react'
import { useEffect, useRef } from 'react'
import { isLanguage, LANGUAGES, type Language } from '#core/words/languages.ts'
import { say } from '#core/words/say.ts'
import { canChoose, chooseLanguage, chosenLanguage, wasJustChosen } from './page-language.ts'

export function InterfaceLanguage() {
  const select = useRef<HTMLSelectElement>(null)
  useEffect(() => {
    if (wasJustChosen()) select.current?.focus()
  }, [])
  if (!canChoose()) return null
  return (
    <label className="flex flex-wrap items-center gap-2 text-sm">
      <Languages size={16} aria-hidden className="shrink-0" />
      <span>{say('Language of these pages')}</span>
      <select
        ref={select}
        className="select select-sm w-56 border-edge bg-base-100"
        value={chosenLanguage() ?? ''}
        onChange={({ target }) => chooseLanguage(isLanguage(target.value) ? target.value : null)}
      >
        <option value="">{say('As the browser wants it')}</option>
        {(Object.keys(LANGUAGES) as Language[]).map((language) => (
          <option key={language} value={language} lang={language}>
            {LANGUAGES[language].name}
          </option>
        ))}
      </select>
    </label>
  )
}
