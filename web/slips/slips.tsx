/** What one would rather not have said so, in the whole lecture: heard with and without, cut out one by one or all of a kind. */

import { CircleCheck, Play, Scissors, Undo2 } from 'lucide-react'
import { useEffect } from 'react'
import { Link, useParams } from 'react-router'
import type { SlipKind } from '#core/captions/spoken/find-slips.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { type Message, message, say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { clock, inSeconds } from '#web/components/format.ts'
import { Loading } from '#web/components/loading.tsx'
import { api, sentenceOf, thumbnailUrl } from '#web/data/api.ts'
import { Transport } from '#web/lecture-ui/transport.tsx'
import { stopPieces } from '#web/playback/play-pieces.ts'
import { NotFoundPage } from '#web/shell/not-found-page.tsx'
import { TopBar } from '#web/shell/top-bar.tsx'
import { type ListedSlip, useSlips } from './use-slips.ts'

const KIND_WORDS: Record<SlipKind, { name: Message; about: Message }> = {
  'begun-anew': { name: message('Begun anew'), about: message('A sentence was broken off and said from its beginning.') },
  'said-twice': { name: message('Said twice'), about: message('The last saying stays.') },
  'filled-pause': { name: message('Er and um'), about: message('Told by their sound: hear each before you cut it.') },
  cough: { name: message('Coughs'), about: message('Loud, and no voice in it.') },
  hesitation: { name: message('Rests inside a sentence'), about: message('Shortened to 0.6 s.') },
  'long-pause': { name: message('Long pauses'), about: message('Shortened to one second.') },
  'stray-end': { name: message('Words after the end'), about: message('A few words that follow a long pause at the very end.') },
}

type Slips = ReturnType<typeof useSlips>

function SlipRow({ lecture, one, slips }: { lecture: Lecture; one: ListedSlip; slips: Slips }) {
  const { slip, slide, number, isHeard } = one
  const name = say(KIND_WORDS[slip.kind].name)
  const where = say('slide {number}, {moment}', { number, moment: clock(slip.start) })
  return (
    <li className="flex flex-wrap items-center gap-x-4 gap-y-1.5 border-t border-base-300 py-2">
      <Link
        to={`/lectures/${lecture.id}/slides/${slide.id}`}
        className="flex w-52 shrink-0 items-center gap-2 rounded"
        aria-label={say('To {where}', { where })}
      >
        <img
          src={thumbnailUrl(slide.steps[0]!.thumbnail)}
          alt=""
          className="h-9 w-16 shrink-0 border border-base-300 object-contain"
        />
        <span className="text-sm">
          {say('Slide {number}', { number })}
          <span className="block text-base-content/75">
            {clock(slip.start)} · {inSeconds(slip.end - slip.start)}
          </span>
        </span>
      </Link>
      <p
        lang={slide.language ?? lecture.language}
        dir="auto"
        className={`min-w-40 grow basis-0 font-read ${isHeard ? '' : 'text-base-content/75 line-through'}`}
      >
        {slip.text || <span className="text-base-content/75">{name}</span>}
      </p>
      <span className="flex flex-wrap gap-1.5">
        <Button size="xs" onClick={() => slips.hear(one, false)} aria-label={say('Hear it: {name}, {where}', { name, where })}>
          <Play size={12} fill="currentColor" aria-hidden /> {say('Hear it')}
        </Button>
        <Button
          size="xs"
          onClick={() => slips.hear(one, true)}
          aria-label={say('Hear without it: {name}, {where}', { name, where })}
        >
          <Play size={12} fill="currentColor" aria-hidden /> {say('Without it')}
        </Button>
        {isHeard ? (
          <Button
            size="xs"
            className="w-28"
            onClick={() => slips.cut([one], say('cut, slide {number}', { number }))}
            aria-label={say('Cut out: {name}, {where}', { name, where })}
          >
            <Scissors size={12} aria-hidden /> {say('Cut out')}
          </Button>
        ) : (
          <Button
            size="xs"
            className="w-28"
            onClick={() => slips.restore(one)}
            aria-label={say('Put back: {name}, {where}', { name, where })}
          >
            <Undo2 size={12} aria-hidden className="rtl:-scale-x-100" /> {say('Put back')}
          </Button>
        )}
      </span>
    </li>
  )
}

function SlipsPage({ lecture }: { lecture: Lecture }) {
  const slips = useSlips(lecture)
  useEffect(() => stopPieces, [])
  return (
    <div className="flex min-h-dvh flex-col">
      <TopBar place={say('Slips')} lecture={lecture} hasHeading />
      <main className="mx-auto w-full max-w-5xl grow px-4 py-6">
        <h1 className="font-read text-2xl font-semibold">{say('Slips')}</h1>
        <p className="mt-1 text-base-content/75">
          {say(
            'Found in what is kept of each slide. Hear each with and without; nothing is cut until you press, and one undo takes it back.',
          )}
        </p>
        {slips.waiting > 0 && (
          <p role="status" className="mt-3 text-sm">
            {say('{count, plural, one {# slide is} other {# slides are}} still listened to.', { count: slips.waiting })}
          </p>
        )}
        {!slips.isLoading && slips.groups.length === 0 && (
          <p className="mt-8 flex items-center gap-2 font-read text-lg">
            <CircleCheck size={20} className="text-success" aria-hidden />
            {say('No slip was found. What you find yourself you can mark by its words, on the bench of its slide.')}
          </p>
        )}
        {slips.groups.map(({ kind, slips: own }) => {
          const left = slips.left(kind)
          const name = say(KIND_WORDS[kind].name)
          return (
            <section key={kind} aria-label={name} className="mt-6">
              <div className="mb-2 flex flex-wrap items-baseline gap-x-3">
                <h2 className="font-read text-lg font-semibold">
                  {name} <span className="font-sans text-base font-normal text-base-content/75">{own.length}</span>
                </h2>
                <p className="grow text-sm text-base-content/75">{say(KIND_WORDS[kind].about)}</p>
                {left.length > 1 && (
                  <Button onClick={() => slips.cut(left, say('{count} cuts of one kind', { count: left.length }))}>
                    <Scissors size={14} aria-hidden /> {say('Cut out all {count}', { count: left.length })}
                  </Button>
                )}
              </div>
              <ul>
                {own.map((one) => (
                  <SlipRow key={`${one.take.id} ${one.slip.start}`} lecture={lecture} one={one} slips={slips} />
                ))}
              </ul>
            </section>
          )
        })}
      </main>
      <Transport lecture={lecture} />
    </div>
  )
}

export function Slips() {
  const { id } = useParams()
  const { data: lecture, error, isLoading } = api.useLectureQuery(id!)
  if (isLoading) return <Loading what={say('the lecture')} />
  if (!lecture) return <NotFoundPage sentence={sentenceOf(error)} />
  return <SlipsPage lecture={lecture} />
}
