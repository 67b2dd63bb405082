/** What is still open before publishing, the one button that makes an edition, and the editions and links there are. */

import { CircleAlert, CircleCheck, CircleDashed } from 'lucide-react'
import { useMemo } from 'react'
import { Link, useParams } from 'react-router'
import type { Check } from '#core/edition/checks/check.ts'
import { checks, holding } from '#core/edition/checks/checks.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { locale, say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { Loading } from '#web/components/loading.tsx'
import { api, sentenceOf } from '#web/data/api.ts'
import { useFix } from '#web/data/use-fix.ts'
import { CHECK_WORDS, whereToMend } from '#web/lecture-ui/check-chip.tsx'
import { NotFoundPage } from '#web/shell/not-found-page.tsx'
import { TopBar } from '#web/shell/top-bar.tsx'
import { Editions } from './editions.tsx'
import { Make } from './make.tsx'

/** So many findings of one kind stand as lines of their own; more are told together. */
const SINGLE = 3

interface CheckLineProps {
  lecture: Lecture
  check: Check
  onFix: (check: Check) => void
}

function CheckLine({ lecture, check, onFix }: CheckLineProps) {
  const { to, words } = whereToMend(lecture, check)
  return (
    <li className="grid grid-cols-[1.4rem_1fr_auto] gap-x-1 border-t border-base-300 py-2.5">
      <CheckIcon check={check} />
      <span>
        {check.finding}
        <span className="block text-sm text-base-content/75">{check.advice}</span>
      </span>
      <span className="grid content-start justify-items-end gap-1">
        <Link to={to} className="font-medium text-primary hover:underline">
          {words}
        </Link>
        {check.fix && (
          <Button size="xs" onClick={() => onFix(check)}>
            {check.fix.label}
          </Button>
        )}
      </span>
    </li>
  )
}

const CheckIcon = ({ check }: { check: Check }) =>
  check.level === 'missing' ? (
    <CircleDashed size={16} aria-label={say('Missing')} className="mt-1 text-error" />
  ) : (
    <CircleAlert size={16} aria-label={say('To look at')} className="mt-1 text-secondary" />
  )

/** "1 to 4, 7 and 9" */
function runs(numbers: readonly number[]): string {
  const said: string[] = []
  for (let i = 0; i < numbers.length; ) {
    let end = i
    while (numbers[end + 1] === numbers[end]! + 1) end++
    said.push(
      end > i + 1 ? say('{first} to {last}', { first: numbers[i]!, last: numbers[end]! }) : numbers.slice(i, end + 1).join(', '),
    )
    i = end + 1
  }
  return new Intl.ListFormat(locale(), { style: 'long', type: 'conjunction' }).format(said)
}

/** Many findings of one kind as one line, which opens into all of them. */
function CheckGroup({ lecture, group, onFix }: { lecture: Lecture; group: Check[]; onFix: (check: Check) => void }) {
  const [first] = group
  const { to, words } = whereToMend(lecture, first!)
  return (
    <li className="relative border-t border-base-300">
      {/* not in the heading of the list: one control in another is none for a keyboard */}
      <Link to={to} className="absolute top-2.5 end-0 font-medium text-primary hover:underline">
        {words}
      </Link>
      <details>
        <summary className="grid cursor-pointer list-none grid-cols-[1.4rem_1fr] gap-x-1 py-2.5 pe-24">
          <CheckIcon check={first!} />
          <span>
            {say(CHECK_WORDS[first!.kind])}: {say('{slides, plural, one {# slide} other {# slides}}', { slides: group.length })}
            <span className="block text-sm text-base-content/75">
              {runs(group.map((check) => check.slideNumber!))}. <span className="underline">{say('Show each')}</span>
            </span>
          </span>
        </summary>
        <ul className="mb-2 ms-6">
          {group.map((check) => (
            <CheckLine key={check.slideId} lecture={lecture} check={check} onFix={onFix} />
          ))}
        </ul>
      </details>
    </li>
  )
}

function Before({ lecture }: { lecture: Lecture }) {
  const found = useMemo(() => checks(lecture), [lecture])
  const fix = useFix(lecture)
  const kinds = [...new Set(found.map((check) => check.kind))].map((kind) => found.filter((check) => check.kind === kind))
  return (
    <section aria-labelledby="before" className="min-w-0 p-5">
      <h2 id="before" className="mb-2 font-read text-xl font-semibold">
        {say('Before you publish')}
      </h2>
      <ul>
        {kinds.map((group) =>
          group.length > SINGLE && group.every((check) => check.slideNumber !== null) ? (
            <CheckGroup key={group[0]!.kind} lecture={lecture} group={group} onFix={fix} />
          ) : (
            group.map((check) => <CheckLine key={`${check.kind} ${check.slideId}`} lecture={lecture} check={check} onFix={fix} />)
          ),
        )}
        {holding(lecture, found).map((sentence) => (
          <li key={sentence} className="grid grid-cols-[1.4rem_1fr] gap-x-1 border-t border-base-300 py-2.5">
            <CircleCheck size={16} aria-label={say('Fine')} className="mt-1 text-success" />
            {sentence}
          </li>
        ))}
      </ul>
    </section>
  )
}

export function Publish() {
  const { id } = useParams()
  const { data: lecture, error, isLoading } = api.useLectureQuery(id!)
  const { data: published } = api.useEditionsQuery(id!)
  if (isLoading) return <Loading what={say('the lecture')} />
  if (!lecture) return <NotFoundPage sentence={sentenceOf(error)} />
  return (
    <div className="flex min-h-dvh flex-col">
      <TopBar place={say('Publish')} lecture={lecture} />
      <main className="grid grow grid-cols-[4fr_5fr_4fr] max-md:grid-cols-[minmax(0,1fr)]">
        <Before lecture={lecture} />
        <Make lecture={lecture} newest={published?.editions[0]} />
        {published && <Editions lecture={lecture} editions={published.editions} links={published.links} kept={published.kept} />}
      </main>
    </div>
  )
}
