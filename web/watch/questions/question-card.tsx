/** A question over the picture: it is answered or passed over, and then says what is right. */
import { useEffect, useId, useRef, useState } from 'react'
import { type Answer, numberOf, type Question, rightInWords } from '#core/model/question.ts'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import type { Questions } from './use-questions.ts'

/** As much as learning platforms take. */
const LONGEST_ANSWER = 250

function Options({
  question,
  chosen,
  onChoose,
}: {
  question: Question & { options: string[] }
  chosen: number[]
  onChoose: (chosen: number[]) => void
}) {
  const name = useId()
  const isOne = question.kind === 'one'
  return (
    <ul className="grid gap-1.5">
      {question.options.map((option, i) => (
        <li key={i}>
          <label className="flex items-center gap-2">
            <input
              type={isOne ? 'radio' : 'checkbox'}
              name={name}
              className={isOne ? 'radio radio-sm border-edge' : 'checkbox checkbox-sm border-edge'}
              checked={chosen.includes(i)}
              onChange={() => onChoose(isOne ? [i] : chosen.includes(i) ? chosen.filter((one) => one !== i) : [...chosen, i])}
            />
            <span dir="auto">{option}</span>
          </label>
        </li>
      ))}
    </ul>
  )
}

export function QuestionCard({ questions, language }: { questions: Questions; language: string }) {
  const { asked, answer, goOn } = questions
  const [chosen, setChosen] = useState<number[]>([])
  const [text, setText] = useState('')
  const [wasRight, setWasRight] = useState<boolean | null>(null)
  const heading = useRef<HTMLHeadingElement>(null)
  useEffect(() => heading.current?.focus(), [])
  if (!asked) return null
  const { question, index } = asked
  const given: Answer | null =
    question.kind === 'one'
      ? (chosen[0] ?? null)
      : question.kind === 'several'
        ? chosen.length > 0
          ? chosen
          : null
        : question.kind === 'number'
          ? Number.isNaN(numberOf(text))
            ? null
            : numberOf(text)
          : text.trim() || null
  return (
    <div className="absolute inset-0 z-10 grid place-items-center overflow-auto bg-black/60 p-4">
      <form
        className="grid w-full max-w-xl gap-3 rounded-lg bg-base-100 p-5 text-base-content"
        onSubmit={(event) => {
          event.preventDefault()
          if (wasRight !== null) goOn()
          else if (given !== null) setWasRight(answer(given))
        }}
      >
        <p className="text-sm text-base-content/75">
          {say('Question {number} of {count}', { number: index + 1, count: questions.count })}
        </p>
        <h2 ref={heading} tabIndex={-1} lang={language} dir="auto" className="font-read text-lg font-semibold outline-none">
          {question.text}
        </h2>
        <fieldset disabled={wasRight !== null} lang={language}>
          <legend className="sr-only">{say('Your answer')}</legend>
          {'options' in question ? (
            <Options question={question} chosen={chosen} onChoose={setChosen} />
          ) : (
            <input
              className="input w-full border-edge"
              aria-label={say('Your answer')}
              inputMode={question.kind === 'number' ? 'decimal' : 'text'}
              maxLength={LONGEST_ANSWER}
              value={text}
              onChange={({ target }) => setText(target.value)}
            />
          )}
        </fieldset>
        {question.kind === 'number' && text !== '' && given === null && (
          <p role="status" className="text-sm">
            {say('This is no number.')}
          </p>
        )}
        {wasRight !== null && (
          <div role="status" className="grid gap-1">
            <p className="font-semibold">
              {wasRight ? say('Right.') : say('Not right: {right}', { right: rightInWords(question) })}
            </p>
            {question.explanation && (
              <p lang={language} dir="auto">
                {question.explanation}
              </p>
            )}
          </div>
        )}
        <p className="flex flex-wrap gap-2">
          {wasRight === null ? (
            <>
              <Button type="submit" kind="primary" size="md" disabled={given === null}>
                {say('Answer')}
              </Button>
              <Button kind="ghost" size="md" onClick={goOn}>
                {say('Go on without an answer')}
              </Button>
            </>
          ) : (
            <Button type="submit" kind="primary" size="md">
              {say('Go on')}
            </Button>
          )}
        </p>
      </form>
    </div>
  )
}
