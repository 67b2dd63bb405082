/** Chooses a language by its name; others by their tag. */

import { useState } from 'react'
import { languageName } from '#core/words/language-name.ts'
import { say } from '#core/words/say.ts'
import { Field } from '#web/components/fields/field.tsx'

/** Those most taught in; any other is written as its BCP 47 tag. */
const USUAL =
  'ar bg bn ca cs da de el en es et eu fa fi fr ga gl he hi hr hu id is it ja ko lt lv mk ms nb nl pl pt pt-BR ro ru sk sl sq sr sv sw ta th tr uk ur vi zh'.split(
    ' ',
  )

/** Languages to choose from, by their names; the one that is chosen is among them. */
export function LanguageOptions({ chosen }: { chosen: string | null }) {
  const listed = [...new Set([...(chosen ? [chosen] : []), ...USUAL])]
  return listed
    .sort((a, b) => languageName(a).localeCompare(languageName(b)))
    .map((language) => (
      <option key={language} value={language}>
        {languageName(language)}
      </option>
    ))
}

interface LanguageChoiceProps {
  label: string
  value: string
  /** What is wrong with it. */
  error?: string | null
  onChange: (language: string) => void
}

export function LanguageChoice({ label, value, error = null, onChange }: LanguageChoiceProps) {
  const [other, setOther] = useState(false)
  return (
    <Field label={label} error={error}>
      {(control) =>
        other ? (
          <input
            {...control}
            className="input input-sm w-56 border-edge bg-base-100"
            placeholder={say('a tag such as cy or pt-AO')}
            value={value}
            onChange={({ target }) => onChange(target.value.trim())}
          />
        ) : (
          <select
            {...control}
            className="select select-sm w-56 border-edge bg-base-100"
            value={value}
            onChange={({ target }) => (target.value === '' ? setOther(true) : onChange(target.value))}
          >
            <LanguageOptions chosen={value} />
            <option value="">{say('Another…')}</option>
          </select>
        )
      }
    </Field>
  )
}
