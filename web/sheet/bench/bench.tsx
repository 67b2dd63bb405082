/** An opened row: script, takes, what tidying did, and the description of the picture. */

import { Mic } from 'lucide-react'
import { type ReactNode, useId, useRef } from 'react'
import { Link, useNavigate } from 'react-router'
import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Slide } from '#core/model/slide.ts'
import { spokenLength } from '#core/script/pace.ts'
import { languageName } from '#core/words/language-name.ts'
import { message, say } from '#core/words/say.ts'
import { buttonLook } from '#web/components/button.tsx'
import { clock } from '#web/components/format.ts'
import type { Command, SlideChange } from '#web/data/commands.ts'
import { useDraft } from '#web/data/draft/use-draft.ts'
import { editOrTell } from '#web/data/history.ts'
import { useAppDispatch } from '#web/data/store.ts'
import { ScriptLanguage } from '#web/lecture-ui/script-language.tsx'
import { TakeList } from '#web/lecture-ui/take-list.tsx'
import { Films } from './moving/films.tsx'
import { Footage } from './moving/footage.tsx'
import { OfferedPages } from './offered-pages.tsx'
import { SlideQuestions } from './questions.tsx'
import { SlideActs } from './slide-acts.tsx'
import { SlideTiming } from './slide-timing.tsx'
import { isTidied, TakeSound } from './take/take-sound.tsx'

/** What is taken back, where one of the fields was changed. */
const NAMES = {
  script: message('script of slide {number}', { number: '' }),
  altText: message('description of slide {number}', { number: '' }),
  title: message('title of slide {number}', { number: '' }),
  section: message('section of slide {number}', { number: '' }),
}

function Field({
  lecture,
  slide,
  name,
  label,
  rows,
  hint,
  beside,
  below,
  className,
  toChange = (text) => ({ [name]: text }),
}: {
  lecture: Lecture
  slide: Slide
  name: 'script' | 'altText' | 'title' | 'section'
  label: string
  rows: number
  hint?: ReactNode
  /** Stands at the end of the label's line, and is no part of it. */
  beside?: ReactNode
  below?: ReactNode
  className: string
  /** What is changed with the text. */
  toChange?: (text: string) => SlideChange
}) {
  const id = useId()
  const number = lecture.slides.indexOf(slide) + 1
  const draft = useDraft(lecture.id, `${name} ${slide.id}`, say({ ...NAMES[name], values: { number } }), slide[name], (text) => [
    { kind: 'slide', id: slide.id, change: toChange(text) },
  ])
  return (
    <div>
      <div className="mb-1 flex items-baseline gap-3 text-sm max-sm:flex-wrap">
        <label htmlFor={id} className="flex grow flex-wrap items-baseline gap-x-3">
          <span className="font-medium">{label}</span>
          <span className="text-base-content/75">{hint}</span>
        </label>
        {beside && <div className="w-64 shrink-0">{beside}</div>}
      </div>
      <textarea
        id={id}
        rows={rows}
        className={`w-full rounded border border-edge bg-base-100 px-3 py-2 ${className}`}
        lang={slide.language ?? lecture.language}
        dir="auto"
        value={draft.text}
        onChange={(event) => draft.type(event.target.value)}
        onBlur={draft.leave}
      />
      {below}
    </div>
  )
}

/** What the picture shows: what came off the slide is a draft until somebody has changed it, or said that its words say it all. */
function Description({ lecture, slide }: { lecture: Lecture; slide: Slide }) {
  const dispatch = useAppDispatch()
  /** The text that is a draft: when typing is taken back to it, it is one again. */
  const drafted = useRef<string | null>(null)
  if (slide.isAltTextDraft) drafted.current = slide.altText
  const number = lecture.slides.indexOf(slide) + 1
  const confirm = () => {
    drafted.current = null
    const change = (isAltTextDraft: boolean): Command[] => [{ kind: 'slide', id: slide.id, change: { isAltTextDraft } }]
    const label = say({ ...NAMES.altText, values: { number } })
    void dispatch(editOrTell({ lectureId: lecture.id, label, forth: change(false), back: change(true) }))
  }
  return (
    <Field
      lecture={lecture}
      slide={slide}
      name="altText"
      label={say('What the picture shows')}
      rows={2}
      hint={say('for those who cannot see it')}
      className="text-sm"
      toChange={(altText) => ({ altText, isAltTextDraft: altText === drafted.current })}
      below={
        slide.isAltTextDraft && (
          <p className="mt-1 flex flex-wrap items-baseline gap-x-3 text-sm">
            <span className="text-secondary">{say('A draft: the words on the slide')}</span>
            <button type="button" className="link" onClick={confirm}>
              {say('Its words say it all')}
            </button>
          </p>
        )
      }
    />
  )
}

/** A phrase of a foreign language is timed by a voice of its own. */
function SlideLanguage({ lecture, slide }: { lecture: Lecture; slide: Slide }) {
  const dispatch = useAppDispatch()
  const number = lecture.slides.indexOf(slide) + 1
  const command = (language: string | null): Command => ({ kind: 'slide', id: slide.id, change: { language } })
  const edit = { lectureId: lecture.id, label: say('language of slide {number}', { number }) }
  return (
    <ScriptLanguage
      label={say('Language spoken on slide {number}', { number })}
      value={slide.language}
      otherwise={say('{inherited}, as the lecture', { inherited: languageName(lecture.language) })}
      onChange={(language) => void dispatch(editOrTell({ ...edit, forth: [command(language)], back: [command(slide.language)] }))}
    />
  )
}

/** Which sentence of the kept take to say again. */
function SayAgainChoice({ lecture, slide }: { lecture: Lecture; slide: Slide }) {
  const navigate = useNavigate()
  const cues = lecture.captionTracks.find((track) => track.origin === 'script')?.cues ?? []
  const own = cues.filter((cue) => cue.slideId === slide.id && cue.takeId === slide.keptTakeId && cue.scriptText !== '')
  const first = own.filter((cue, i) => own.findIndex((other) => other.scriptText === cue.scriptText) === i)
  if (first.length < 2) return null
  return (
    <select
      aria-label={say('Say one sentence again')}
      className="select select-sm w-56 border-edge bg-base-100"
      value=""
      onChange={({ target }) => void navigate(`/lectures/${lecture.id}/booth?slide=${slide.id}&again=${target.value}`)}
    >
      <option value="">{say('Only one sentence…')}</option>
      {first.map((cue) => (
        <option key={cue.id} value={cue.id}>
          {cue.scriptText.length > 60 ? `${cue.scriptText.slice(0, 58)}…` : cue.scriptText}
        </option>
      ))}
    </select>
  )
}

export function Bench({ lecture, slide, index }: { lecture: Lecture; slide: Slide; index: number }) {
  const take = keptTake(slide)
  const { words, points, seconds } = spokenLength(slide.script, slide.language ?? lecture.language)
  const number = index + 1
  const texts = (
    <div className="grid min-w-0 grid-cols-[minmax(0,1fr)] content-start gap-3">
      <Field
        lecture={lecture}
        slide={slide}
        name="script"
        label={say('Script')}
        rows={5}
        hint={
          points > 0
            ? say('{points, plural, one {# point} other {# points}} to speak from: no captions come of them', { points })
            : words > 0 && say('{words, plural, one {# word} other {# words}}, about {time}', { words, time: clock(seconds, 0) })
        }
        beside={<SlideLanguage lecture={lecture} slide={slide} />}
        className="font-read text-lg leading-relaxed"
      />
      <div className="grid grid-cols-[1fr_1fr_2fr] gap-3 max-lg:grid-cols-2 max-sm:grid-cols-1">
        <Field lecture={lecture} slide={slide} name="title" label={say('Title')} rows={2} className="text-sm" />
        <Field
          lecture={lecture}
          slide={slide}
          name="section"
          label={say('Section')}
          rows={2}
          hint={say('that begins here')}
          className="text-sm"
        />
        <Description lecture={lecture} slide={slide} />
      </div>
    </div>
  )
  const takesAndActs = (
    <div className="grid min-w-0 grid-cols-[minmax(0,1fr)] content-start gap-3">
      <TakeList lecture={lecture} slide={slide} />
      <div className="flex flex-wrap gap-2">
        <Link to={`/lectures/${lecture.id}/booth?slide=${slide.id}`} className={buttonLook()}>
          <Mic size={15} aria-hidden /> {take ? say('Record again') : say('Record')}
        </Link>
        <SayAgainChoice lecture={lecture} slide={slide} />
      </div>
    </div>
  )
  return (
    <section aria-label={say('Bench of slide {number}', { number })} className="border-t border-base-300 px-4 pt-3 pb-5">
      <OfferedPages lecture={lecture} slide={slide} />
      {take?.sound && isTidied(take) ? (
        <TakeSound
          key={take.id}
          lecture={lecture}
          take={take}
          slideNumber={number}
          language={slide.language ?? lecture.language}
          below={texts}
          beside={takesAndActs}
        />
      ) : (
        <div className="grid grid-cols-[1fr_20rem] gap-6 max-md:grid-cols-[minmax(0,1fr)]">
          {texts}
          <div className="grid min-w-0 grid-cols-[minmax(0,1fr)] content-start gap-3">
            {take && <p className="text-sm text-base-content/75">{take.problem ? say(take.problem) : say('Being tidied')}</p>}
            {takesAndActs}
          </div>
        </div>
      )}
      <Films lecture={lecture} slide={slide} number={number} />
      <Footage lecture={lecture} slide={slide} number={number} />
      <SlideQuestions key={slide.id} lecture={lecture} slide={slide} number={number} />
      <div className="mt-4 flex flex-wrap items-end justify-between gap-x-6 gap-y-3 border-t border-base-300 pt-3">
        <SlideTiming lecture={lecture} slide={slide} number={number} />
        <SlideActs lecture={lecture} slide={slide} number={number} />
      </div>
    </section>
  )
}
