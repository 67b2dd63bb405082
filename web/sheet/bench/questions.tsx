/** What the lecture asks after a slide: written here, asked where the slide ends. */
import { CircleHelp, Plus, Trash2 } from 'lucide-react'
import { useState } from 'react'
import type { Lecture } from '#core/model/lecture.ts'
import { MOST_QUESTIONS, numberOf, OPTIONS, Question, type QuestionKind } from '#core/model/question.ts'
import type { Slide } from '#core/model/slide.ts'
import { type Message, message, say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { editOrTell } from '#web/data/history.ts'
import { useAppDispatch } from '#web/data/store.ts'

const KINDS: Record<QuestionKind, Message> = {
  one: message('one answer is right'),
  several: message('several answers are right'),
  number: message('a number'),
  word: message('a word'),
}

/** As it stands in the fields, whether or not it is a question yet. */
interface Draft {
  id: string
  kind: QuestionKind
  text: string
  explanation: string
  options: string[]
  chosen: number[]
  number: string
  within: string
  words: string
}

const draftOf = (question: Question): Draft => ({
  ...{ options: ['', ''], chosen: [], number: '', within: '0', words: '' },
  ...{ id: question.id, kind: question.kind, text: question.text, explanation: question.explanation },
  ...('options' in question && { options: question.options, chosen: [question.right].flat() }),
  ...(question.kind === 'number' && { number: String(question.right), within: String(question.within) }),
  ...(question.kind === 'word' && { words: question.right.join(', ') }),
})

const EMPTY = (): Draft => ({
  ...{ id: crypto.randomUUID(), kind: 'one', text: '', explanation: '' },
  ...{ options: ['', ''], chosen: [], number: '', within: '0', words: '' },
})

/** @returns null while something of it is missing */
function questionOf({ id, kind, text, explanation, options, chosen, number, within, words }: Draft): Question | null {
  const shared = { id, text, explanation }
  // empty options at the end are those that nobody needed
  const filled = options.map((option) => option.trim())
  while (filled.length > OPTIONS.least && filled.at(-1) === '') filled.pop()
  const made =
    kind === 'one'
      ? { ...shared, kind, options: filled, right: chosen[0] }
      : kind === 'several'
        ? { ...shared, kind, options: filled, right: chosen }
        : kind === 'number'
          ? { ...shared, kind, right: numberOf(number), within: numberOf(within) }
          : {
              ...shared,
              kind,
              right: words
                .split(',')
                .map((word) => word.trim())
                .filter(Boolean),
            }
  return Question.safeParse(made).data ?? null
}

const FIELD = 'input input-sm w-full border-edge bg-base-100'

function OptionFields({ draft, change }: { draft: Draft; change: (part: Partial<Draft>) => void }) {
  const { id, kind, options, chosen } = draft
  const isOne = kind === 'one'
  const mark = (i: number) => (isOne ? [i] : chosen.includes(i) ? chosen.filter((one) => one !== i) : [...chosen, i])
  return (
    <ul className="grid gap-1">
      {options.map((option, i) => (
        <li key={i} className="flex items-center gap-2">
          <input
            type={isOne ? 'radio' : 'checkbox'}
            name={id}
            className={isOne ? 'radio radio-xs border-edge' : 'checkbox checkbox-xs border-edge'}
            aria-label={say('Answer {number} is right', { number: i + 1 })}
            checked={chosen.includes(i)}
            onChange={() => change({ chosen: mark(i) })}
          />
          <input
            className={FIELD}
            aria-label={say('Answer {number}', { number: i + 1 })}
            maxLength={200}
            value={option}
            onChange={({ target }) => change({ options: options.map((one, k) => (k === i ? target.value : one)) })}
          />
        </li>
      ))}
      {options.length < OPTIONS.most && (
        <li>
          <Button kind="ghost" size="xs" onClick={() => change({ options: [...options, ''] })}>
            <Plus size={14} aria-hidden /> {say('Another answer')}
          </Button>
        </li>
      )}
    </ul>
  )
}

interface QuestionFieldsProps {
  draft: Draft
  number: number
  onDraft: (draft: Draft) => void
  onKeep: (question: Question) => void
  onRemove: () => void
}

function QuestionFields({ draft, number, onDraft, onKeep, onRemove }: QuestionFieldsProps) {
  const change = (part: Partial<Draft>) => onDraft({ ...draft, ...part })
  const question = questionOf(draft)
  return (
    <li
      className="grid gap-2 border-t border-base-300 py-2 first:border-t-0"
      // kept when it is left as a whole, and is one
      onBlur={({ currentTarget, relatedTarget }) => !currentTarget.contains(relatedTarget) && question && onKeep(question)}
    >
      <div className="flex items-end gap-2">
        <label className="grid grow gap-0.5 text-sm">
          {say('Question {number}', { number })}
          <input className={FIELD} maxLength={500} value={draft.text} onChange={({ target }) => change({ text: target.value })} />
        </label>
        <label className="grid gap-0.5 text-sm">
          {say('Answered by')}
          <select
            className="select select-sm w-52 border-edge bg-base-100"
            value={draft.kind}
            onChange={({ target }) => change({ kind: target.value as QuestionKind, chosen: draft.chosen.slice(0, 1) })}
          >
            {Object.entries(KINDS).map(([kind, words]) => (
              <option key={kind} value={kind}>
                {say(words)}
              </option>
            ))}
          </select>
        </label>
        <Button kind="ghost" square aria-label={say('Take question {number} away', { number })} onClick={onRemove}>
          <Trash2 size={16} aria-hidden />
        </Button>
      </div>
      {(draft.kind === 'one' || draft.kind === 'several') && <OptionFields draft={draft} change={change} />}
      {draft.kind === 'number' && (
        <div className="flex gap-3">
          <label className="grid gap-0.5 text-sm">
            {say('Right')}
            <input
              className={FIELD}
              inputMode="decimal"
              value={draft.number}
              onChange={({ target }) => change({ number: target.value })}
            />
          </label>
          <label className="grid gap-0.5 text-sm">
            {say('and so much beside it')}
            <input
              className={FIELD}
              inputMode="decimal"
              value={draft.within}
              onChange={({ target }) => change({ within: target.value })}
            />
          </label>
        </div>
      )}
      {draft.kind === 'word' && (
        <label className="grid gap-0.5 text-sm">
          <span>
            {say('Right words')} <span className="text-base-content/75">{say('with commas between them')}</span>
          </span>
          <input className={FIELD} value={draft.words} onChange={({ target }) => change({ words: target.value })} />
        </label>
      )}
      <label className="grid gap-0.5 text-sm">
        <span>
          {say('Explanation')} <span className="text-base-content/75">{say('shown after the answer')}</span>
        </span>
        <input
          className={FIELD}
          maxLength={1000}
          value={draft.explanation}
          onChange={({ target }) => change({ explanation: target.value })}
        />
      </label>
      {question === null && (
        <p role="status" className="text-sm text-secondary">
          {say('It is not kept yet: it needs its words, its answers, and which of them is right.')}
        </p>
      )}
    </li>
  )
}

export function SlideQuestions({ lecture, slide, number }: { lecture: Lecture; slide: Slide; number: number }) {
  const dispatch = useAppDispatch()
  const { questions } = slide
  /** Those that are being written, by their ids. */
  const [drafts, setDrafts] = useState<ReadonlyMap<string, Draft>>(new Map())
  const set = (next: Question[], label: string) =>
    void dispatch(
      editOrTell({
        lectureId: lecture.id,
        label,
        forth: [{ kind: 'slide', id: slide.id, change: { questions: next } }],
        back: [{ kind: 'slide', id: slide.id, change: { questions } }],
      }),
    )
  const write = (draft: Draft) => setDrafts((now) => new Map(now).set(draft.id, draft))
  const forget = (id: string) => setDrafts((now) => new Map([...now].filter(([one]) => one !== id)))
  const keep = (question: Question) => {
    forget(question.id)
    const known = questions.find(({ id }) => id === question.id)
    if (JSON.stringify(known) === JSON.stringify(question)) return
    set(
      known ? questions.map((one) => (one.id === question.id ? question : one)) : [...questions, question],
      say('question after slide {number}', { number }),
    )
  }
  const remove = (id: string) => {
    forget(id)
    if (questions.some((one) => one.id === id))
      set(
        questions.filter((one) => one.id !== id),
        say('taking a question of slide {number} away', { number }),
      )
  }
  const fresh = [...drafts.values()].filter(({ id }) => !questions.some((one) => one.id === id))
  const all = [...questions.map((one) => drafts.get(one.id) ?? draftOf(one)), ...fresh]
  return (
    <section aria-label={say('Questions after slide {number}', { number })} className="mt-4 border-t border-base-300 pt-2">
      {all.length > 0 && (
        <ul>
          {all.map((draft, i) => (
            <QuestionFields
              key={draft.id}
              draft={draft}
              number={i + 1}
              onDraft={write}
              onKeep={keep}
              onRemove={() => remove(draft.id)}
            />
          ))}
        </ul>
      )}
      {all.length < MOST_QUESTIONS && (
        <Button kind="ghost" size="xs" onClick={() => write(EMPTY())}>
          <CircleHelp size={14} aria-hidden /> {say('Ask something after this slide')}
        </Button>
      )}
    </section>
  )
}
