/** Above the rows: totals, profile, what to show of the rows, and what can be added. */

import { ChevronDown, Clock, Mic } from 'lucide-react'
import { lazy, Suspense, useState } from 'react'
import { Link } from 'react-router'
import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { expectedLength, profileOf } from '#core/timing/profile.ts'
import { type Message, message, say } from '#core/words/say.ts'
import { Button, buttonLook } from '#web/components/button.tsx'
import { SearchField } from '#web/components/fields/search-field.tsx'
import { clock } from '#web/components/format.ts'
import type { Link as ShownLink } from '#web/data/api.ts'
import type { Command } from '#web/data/commands.ts'
import { editOrTell } from '#web/data/history.ts'
import { useAppDispatch } from '#web/data/store.ts'
import { useFix } from '#web/data/use-fix.ts'
import { CheckChip } from '#web/lecture-ui/check-chip.tsx'
import { ScriptLanguage } from '#web/lecture-ui/script-language.tsx'
import { usePictureActs } from './bench/use-picture-acts.ts'
import { FILTERS, type Filter, type SheetData } from './use-sheet.ts'

// the chart comes after the rows, whose place it does not change; what is asked for by a press is loaded then
const Profile = lazy(async () => ({ default: (await import('./profile.tsx')).Profile }))
const AddMenu = lazy(async () => ({ default: (await import('./add-menu.tsx')).AddMenu }))
const CardDialog = lazy(async () => ({ default: (await import('./bench/card-dialog.tsx')).CardDialog }))
const VoicesDialog = lazy(async () => ({ default: (await import('#web/voices/voices-dialog.tsx')).VoicesDialog }))
const TimingPanel = lazy(async () => ({ default: (await import('./timing-panel.tsx')).TimingPanel }))

const FILTER_WORDS: Record<Filter, Message> = {
  all: message('All'),
  'to-do': message('To do'),
  'no-sound': message('No sound'),
  'from-deck': message('Not all drawn'),
  changed: message('Changed'),
}

/** What to do next: record what is missing, then publish. */
function NextAction({ lecture, data }: { lecture: Lecture; data: SheetData }) {
  const silent = data.rows.find((row) => row.checks.some((check) => check.kind === 'no-sound'))
  if (!silent) {
    return (
      <Link to={`/lectures/${lecture.id}/publish`} className={buttonLook({ kind: 'primary' })}>
        {say('Publish')}
      </Link>
    )
  }
  return (
    <Link to={`/lectures/${lecture.id}/booth?slide=${silent.slide.id}`} className={buttonLook({ kind: 'primary' })}>
      <Mic size={15} aria-hidden /> {say('Record slide {number}', { number: silent.index + 1 })}
    </Link>
  )
}

/** For who may not change it: what learners see, where a link is open. */
function WatchNewest({ links }: { links: readonly ShownLink[] }) {
  const open = links.find(({ revokedAt, expiresAt }) => revokedAt === null && (expiresAt === null || expiresAt > Date.now()))
  return open ? (
    <a href={`/watch/${open.token}`} className={buttonLook({ kind: 'primary' })}>
      {say('Watch the newest edition')}
    </a>
  ) : null
}

interface SheetActionProps {
  lecture: Lecture
  data: SheetData
  mayChange: boolean
  published: { editions: unknown[]; links: ShownLink[] } | undefined
}

export const SheetAction = ({ lecture, data, mayChange, published }: SheetActionProps) =>
  mayChange ? (
    <NextAction lecture={lecture} data={data} />
  ) : (
    <WatchNewest links={published?.editions.length ? published.links : []} />
  )

/** The language of the lecture: found when its deck came in, and changed here. */
function SpokenIn({ lecture }: { lecture: Lecture }) {
  const dispatch = useAppDispatch()
  const change = (language: string | null) => {
    if (language === null || language === lecture.language) return
    const command = (to: string): Command => ({ kind: 'lecture', change: { language: to } })
    const edit = { lectureId: lecture.id, label: say('language of the lecture') }
    void dispatch(editOrTell({ ...edit, forth: [command(language)], back: [command(lecture.language)] }))
  }
  return (
    <p className="mt-1 flex items-center gap-1.5 text-sm text-base-content/75">
      <span className="whitespace-nowrap">{say('spoken in')}</span>{' '}
      <ScriptLanguage label={say('Language of the lecture')} value={lecture.language} onChange={change} />
    </p>
  )
}

function Totals({ lecture, data, mayChange }: Pick<SheetHeadProps, 'lecture' | 'data' | 'mayChange'>) {
  const fix = useFix(lecture)
  const spoken = lecture.slides.filter((slide) => keptTake(slide)).length
  const { seconds, isGuess } = expectedLength(lecture, data.times)
  const { toDo } = data
  return (
    <div className="w-52 shrink-0">
      <p className="font-read text-3xl font-semibold">
        {isGuess && <span className="text-base font-normal text-base-content/75">{say('about')} </span>}
        {clock(seconds, 0)}
      </p>
      <p className="text-sm text-base-content/75">
        {say('{spoken} of {slides, plural, one {# slide} other {# slides}} spoken', { spoken, slides: lecture.slides.length })}
        <br />
        {toDo === 0 ? say('nothing left to do') : say('{toDo, plural, one {# thing to do} other {# things to do}}', { toDo })}
      </p>
      {mayChange && <SpokenIn lecture={lecture} />}
      {data.found
        .filter((check) => check.slideId === null)
        .map((check) => (
          <div key={check.kind} className="text-sm">
            <CheckChip lecture={lecture} check={check} onFix={mayChange ? fix : null} />
          </div>
        ))}
    </div>
  )
}

/** Stands where the menu comes. */
const AddButton = () => (
  <Button disabled>
    {say('Add')} <ChevronDown size={14} aria-hidden />
  </Button>
)

interface SheetHeadProps {
  lecture: Lecture
  mayChange: boolean
  data: SheetData
  filter: Filter
  search: string
  onFilter: (filter: Filter) => void
  onSearch: (search: string) => void
  onChoose: (slideId: string) => void
  onFiles: () => void
}

export function SheetHead({ lecture, mayChange, data, filter, search, onFilter, onSearch, onChoose, onFiles }: SheetHeadProps) {
  const [timing, setTiming] = useState(false)
  const [writing, setWriting] = useState(false)
  const [inviting, setInviting] = useState(false)
  const acts = usePictureActs(lecture)
  return (
    <>
      <div className="flex items-center gap-6 border-b border-base-300 px-4 py-2.5 max-lg:flex-wrap">
        <Totals lecture={lecture} data={data} mayChange={mayChange} />
        <Suspense fallback={<div className="h-14 min-w-0 grow" />}>
          <Profile profile={profileOf(lecture, data.times)} onChoose={onChoose} />
        </Suspense>
        <div className="grid w-88 max-w-full shrink-0 gap-1.5">
          <div className="flex flex-wrap gap-1" role="radiogroup" aria-label={say('Which slides are shown')}>
            {FILTERS.filter((f) => f === 'all' || data.counts[f] > 0 || f === filter).map((f) => (
              <label
                key={f}
                className={`btn btn-xs border-edge has-focus-visible:outline-2 ${filter === f ? 'btn-neutral' : 'bg-base-100'}`}
              >
                <input type="radio" name="filter" className="sr-only" checked={filter === f} onChange={() => onFilter(f)} />
                {say(FILTER_WORDS[f])} {data.counts[f]}
              </label>
            ))}
          </div>
          <div className="flex items-center gap-1.5 max-sm:flex-wrap">
            <SearchField
              className="w-32 grow"
              aria-label={say('Find a slide by its words')}
              placeholder={say('Find')}
              value={search}
              onSeek={onSearch}
            />
            {mayChange && (
              <>
                <Button aria-expanded={timing} onClick={() => setTiming(!timing)}>
                  <Clock size={14} aria-hidden /> {say('Times')}
                </Button>
                {lecture.slides.some(keptTake) && (
                  <Link to={`/lectures/${lecture.id}/slips`} className={buttonLook()}>
                    {say('Slips')}
                  </Link>
                )}
                <Suspense fallback={<AddButton />}>
                  <AddMenu
                    lecture={lecture}
                    onFiles={onFiles}
                    onCard={() => setWriting(true)}
                    onVoices={() => setInviting(true)}
                  />
                </Suspense>
              </>
            )}
          </div>
        </div>
      </div>
      {filter === 'from-deck' && mayChange && (
        <p className="flex flex-wrap items-center gap-3 border-b border-base-300 bg-base-200 px-4 py-2 text-sm">
          {say('What could not be drawn is told on each of these slides. Bring the PDF of the deck: its pages take their place.')}
          <Button onClick={onFiles}>{say('Choose the PDF')}</Button>
        </p>
      )}
      <Suspense>
        {timing && <TimingPanel lecture={lecture} />}
        {inviting && <VoicesDialog lecture={lecture} onClose={() => setInviting(false)} />}
        {writing && (
          <CardDialog
            card={null}
            onKeep={(card) => void acts.addCard(lecture.slides.at(-1)?.id ?? null, card)}
            onClose={() => setWriting(false)}
          />
        )}
      </Suspense>
    </>
  )
}
