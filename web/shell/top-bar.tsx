/** The thin bar on top: mark, title edited in place, places of the lecture, whether all is saved, and what to do next. */

import { Check, CloudOff, Eye, Loader, Redo2, Settings, Undo2 } from 'lucide-react'
import { lazy, type ReactNode, Suspense } from 'react'
import { shallowEqual } from 'react-redux'
import { Link, NavLink } from 'react-router'
import type { Lecture } from '#core/model/lecture.ts'
import { message, say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { Mark } from '#web/components/mark.tsx'
import { usePageTitle } from '#web/components/page-title.ts'
import { useDraft } from '#web/data/draft/use-draft.ts'
import { redo, selectSaved, selectSteps, undo } from '#web/data/history.ts'
import { useAppDispatch, useAppSelector } from '#web/data/store.ts'
import { useMayChange } from '#web/sharing/use-may-change.ts'
import { isSchool } from '#web/sign-in/is-school.ts'
import { TrashButton } from './trash.tsx'

const WhoIsHere = lazy(async () => ({ default: (await import('#web/sharing/who-is-here.tsx')).WhoIsHere }))
const ShareButton = lazy(async () => ({ default: (await import('#web/sharing/share-button.tsx')).ShareButton }))
const PersonMenu = lazy(async () => ({ default: (await import('#web/sign-in/person-menu.tsx')).PersonMenu }))

function Title({ lecture, mayChange }: { lecture: Lecture; mayChange: boolean }) {
  const title = useDraft(lecture.id, 'lecture title', say('title of the lecture'), lecture.title, (text) => [
    { kind: 'lecture', change: { title: text.trim() || say('A lecture without a title') } },
  ])
  if (!mayChange)
    return (
      <bdi lang={lecture.language} className="max-w-96 truncate font-read text-xl font-semibold max-sm:max-w-52">
        {lecture.title}
      </bdi>
    )
  return (
    <input
      aria-label={say('Title of the lecture')}
      dir="auto"
      className="field-sizing-content min-w-24 max-w-96 truncate max-sm:max-w-52 rounded border border-transparent bg-transparent px-1 font-read text-xl font-semibold hover:border-edge"
      value={title.text}
      maxLength={200}
      onChange={(event) => title.type(event.target.value)}
      onBlur={title.leave}
    />
  )
}

function Saved() {
  const saved = useAppSelector(selectSaved)
  const problem = useAppSelector((state) => state.history.failed)
  return (
    <output className="flex items-center gap-1.5 text-sm text-base-content/75" title={problem ?? undefined}>
      {saved === 'saved' && <Check size={15} aria-hidden />}
      {saved === 'saving' && <Loader size={15} aria-hidden />}
      {saved === 'failed' && <CloudOff size={15} aria-hidden className="text-error" />}
      {{ saved: say('All changes saved'), saving: say('Saving'), failed: say('Not saved yet; it is tried again') }[saved]}
    </output>
  )
}

const OnlyToWatch = () => (
  <span className="flex items-center gap-1.5 text-sm text-base-content/75">
    <Eye size={15} aria-hidden /> {say('You may watch this, not change it')}
  </span>
)

/** The last edit back and forth again, with its name. */
function Steps() {
  const dispatch = useAppDispatch()
  const { back, forth } = useAppSelector(selectSteps, shallowEqual)
  const steps = [
    {
      what: back === null ? say('Nothing to undo') : say('Undo: {what}', { what: back }),
      name: say('Undo the last change'),
      disabled: back === null,
      Icon: Undo2,
      act: undo,
    },
    {
      what: forth === null ? say('Nothing to redo') : say('Redo: {what}', { what: forth }),
      name: say('Redo the last change'),
      disabled: forth === null,
      Icon: Redo2,
      act: redo,
    },
  ]
  return (
    <span className="flex">
      {steps.map(({ name, what, disabled, Icon, act }) => (
        <Button
          key={name}
          kind="ghost"
          square
          disabled={disabled}
          aria-label={name}
          title={what}
          onClick={() => void dispatch(act())}
        >
          <Icon size={17} aria-hidden className="rtl:-scale-x-100" />
        </Button>
      ))}
    </span>
  )
}

/** Over the bar, for whoever comes by keyboard. */
function SkipLink() {
  return (
    // biome-ignore lint/a11y/useValidAnchor: it goes somewhere, past the bar
    <a
      href="#content"
      className="sr-only z-50 rounded bg-base-100 focus:not-sr-only focus:absolute focus:px-3 focus:py-1"
      onClick={(event) => {
        // the place is not one of the address: going back would come to it
        event.preventDefault()
        const content = document.querySelector('main')
        content?.setAttribute('tabindex', '-1')
        content?.focus()
      }}
    >
      {say('To the content')}
    </a>
  )
}

const PLACES = [
  ['', message('Sheet')],
  ['/captions', message('Captions')],
  ['/sound', message('Sound')],
  ['/publish', message('Publish')],
] as const

interface TopBarProps {
  /** What the page is called. */
  place: string
  lecture?: Lecture
  action?: ReactNode
  /** The page has its own heading of the first level. */
  hasHeading?: boolean
}

export function TopBar({ place, lecture, action, hasHeading = false }: TopBarProps) {
  usePageTitle(lecture?.title, place)
  const mayChange = useMayChange(lecture?.id)
  return (
    <header className="flex h-12 shrink-0 items-center gap-4 border-b border-base-300 px-4 max-lg:h-auto max-lg:flex-wrap max-lg:gap-x-3 max-lg:gap-y-1 max-lg:py-1">
      <SkipLink />
      <Link to="/" aria-label={say('Tidy Lectern: back to the shelf')} className="rounded">
        <Mark />
      </Link>
      {!hasHeading && (
        <h1 className="sr-only">
          {lecture && (
            <>
              <bdi lang={lecture.language}>{lecture.title}</bdi>:{' '}
            </>
          )}
          {place}
        </h1>
      )}
      {lecture ? (
        <Title key={lecture.id} lecture={lecture} mayChange={mayChange} />
      ) : (
        <span className="font-read text-xl font-semibold">Tidy Lectern</span>
      )}
      {lecture && (
        <nav aria-label={say('Places of this lecture')} className="flex h-full gap-1 max-md:h-9 max-md:w-full max-md:flex-wrap">
          {PLACES.filter(([path]) => mayChange || path === '').map(([path, name]) => (
            <NavLink
              key={path}
              to={`/lectures/${lecture.id}${path}`}
              end={false}
              className={({ isActive }) =>
                `flex h-full items-center border-b-2 px-2.5 max-sm:px-1.5 ${isActive && (path !== '' || !location.pathname.match(/captions|sound|publish/)) ? 'border-primary font-medium' : 'border-transparent text-base-content/75 hover:text-base-content'}`
              }
            >
              {say(name)}
            </NavLink>
          ))}
        </nav>
      )}
      <div className="ms-auto flex flex-wrap items-center gap-4 max-md:gap-x-3">
        {mayChange ? (
          <>
            <Steps />
            {lecture && <Saved />}
          </>
        ) : (
          <OnlyToWatch />
        )}
        {isSchool() && lecture && (
          <Suspense>
            <WhoIsHere lecture={lecture} />
            <ShareButton lectureId={lecture.id} />
          </Suspense>
        )}
        {action}
        {mayChange && <TrashButton lectureId={lecture?.id ?? null} />}
        {isSchool() && (
          <Suspense>
            <PersonMenu isNamed={!lecture} />
          </Suspense>
        )}
        <Link to="/settings" aria-label={say('Settings')} className="rounded p-1 text-base-content/75 hover:text-base-content">
          <Settings size={19} aria-hidden />
        </Link>
      </div>
    </header>
  )
}
