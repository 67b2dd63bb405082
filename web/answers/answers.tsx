/** What a class sent by a link: a row each on one time scale, heard one after the other, with what was read of the script. */

import { Download, Play, Square, Trash2 } from 'lucide-react'
import { useEffect, useRef, useState } from 'react'
import { Link, useParams } from 'react-router'
import { toast } from 'sonner'
import type { Lecture } from '#core/model/lecture.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { say } from '#core/words/say.ts'
import { Button, buttonLook } from '#web/components/button.tsx'
import { clock, moment } from '#web/components/format.ts'
import { usePageKeys } from '#web/components/keys/use-page-keys.ts'
import { Loading } from '#web/components/loading.tsx'
import { useWidth } from '#web/components/use-width.ts'
import { api, sentenceOf } from '#web/data/api.ts'
import {
  type Answer,
  answerPeaks,
  answerRecording,
  answersFolder,
  voiceLinksApi,
} from '#web/data/endpoints/voices/voice-links.ts'
import { orTell } from '#web/data/or-tell.ts'
import { Strip } from '#web/lecture-ui/strip.tsx'
import { playStretch, stopPlay } from '#web/playback/sound.ts'
import { COLUMNS, Ruler, type Scale } from '#web/sheet/scale.tsx'
import { NotFoundPage } from '#web/shell/not-found-page.tsx'
import { TopBar } from '#web/shell/top-bar.tsx'
import { ReadingFigures } from './reading-figures.tsx'
import { useRow } from './use-row.ts'

const STRIP_HEIGHT = 44
const SHORTEST_SCALE_S = 20

/** Seconds that the strips of all rows show. */
const scaleOf = (answers: readonly Answer[]) =>
  Math.max(SHORTEST_SCALE_S, ...answers.map((answer) => toSeconds(answer.clip?.samples ?? answer.samples) * 1.05))

interface RowProps {
  lecture: Lecture
  answer: Answer
  scale: Scale
  isCurrent: boolean
  isPlaying: boolean
  onPlay: () => void
  onDelete: () => void
}

function AnswerRow({ lecture, answer, scale, isCurrent, isPlaying, onPlay, onDelete }: RowProps) {
  const row = useRef<HTMLLIElement>(null)
  useEffect(() => {
    if (isCurrent) row.current?.scrollIntoView({ block: 'nearest' })
  }, [isCurrent])
  const slide = lecture.slides.find(({ id }) => id === answer.slideId)
  const number = slide ? lecture.slides.indexOf(slide) + 1 : 0
  const seconds = toSeconds(answer.clip?.samples ?? answer.samples)
  const who = say('{name}, slide {number}', { name: answer.name, number })
  return (
    <li
      ref={row}
      aria-current={isCurrent ? 'true' : undefined}
      className={`border-b border-base-300 py-2 ${isCurrent ? 'bg-base-200' : ''}`}
    >
      <div className={`${COLUMNS} items-center`}>
        <p className="flex min-w-0 items-center gap-2 ps-4 pe-2">
          <Button
            kind={isPlaying ? 'primary' : 'plain'}
            square
            disabled={!answer.clip}
            aria-label={isPlaying ? say('Stop {who}', { who }) : say('Listen to {who}', { who })}
            onClick={onPlay}
          >
            {isPlaying ? (
              <Square size={15} fill="currentColor" aria-hidden />
            ) : (
              <Play size={15} fill="currentColor" aria-hidden />
            )}
          </Button>
          <span className="min-w-0">
            <bdi className="block truncate font-medium">{answer.name}</bdi>
            <span className="block truncate text-xs text-base-content/75">
              {say('slide {number}', { number })}
              {answer.attempt > 1 && say(', attempt {attempt}', { attempt: answer.attempt })} · {moment(answer.startedAt)}
            </span>
          </span>
        </p>
        <div dir="ltr" className="min-w-0 overflow-hidden">
          {answer.clip && scale.width > 0 ? (
            <Strip
              address={answerPeaks(answer.id)}
              stretches={[{ start: 0, end: answer.clip.samples }]}
              width={seconds * scale.pixelsASecond}
              height={STRIP_HEIGHT}
              label={say('Sound of {who}', { who })}
            />
          ) : (
            <p className="text-sm text-base-content/75">{answer.problem ? say(answer.problem) : say('being tidied')}</p>
          )}
        </div>
        <p className="flex items-center justify-between gap-2 px-4 text-sm">
          <span>{clock(seconds)}</span>
          <Button kind="ghost" square aria-label={say('Delete the answer of {who}', { who })} onClick={onDelete}>
            <Trash2 size={15} aria-hidden />
          </Button>
        </p>
      </div>
      <ReadingFigures
        answer={answer}
        script={slide?.script ?? ''}
        language={slide?.language ?? lecture.language}
        onHear={(start, end) => playStretch(answerRecording(answer.id), Math.max(0, start), end)}
      />
    </li>
  )
}

function Answers({ lecture, token }: { lecture: Lecture; token: string }) {
  const { data: links } = voiceLinksApi.useVoiceLinksQuery(lecture.id)
  const { data: all, error } = voiceLinksApi.useAnswersQuery({ lectureId: lecture.id, token })
  const [setDeleted] = voiceLinksApi.useSetAnswerDeletedMutation()
  const [slideId, setSlideId] = useState<string | null>(null)
  const [measure, width] = useWidth()
  const link = links?.find((one) => one.token === token)
  const answers = (all ?? []).filter((answer) => slideId === null || answer.slideId === slideId)
  const row = useRow(answers)
  useEffect(() => stopPlay, [])
  usePageKeys({ space: row.toggle, arrowdown: () => row.move(1), arrowup: () => row.move(-1) })
  if (error) return <NotFoundPage sentence={sentenceOf(error)} />
  if (!all || !links) return <Loading what={say('the answers')} />
  const remove = async (answer: Answer) => {
    const change = (deleted: boolean) => orTell(setDeleted({ lectureId: lecture.id, id: answer.id, deleted }).unwrap())
    if (!(await change(true))) return
    toast(say('The answer of {name} was deleted.', { name: answer.name }), {
      action: { label: say('Undo'), onClick: () => void change(false) },
    })
  }
  const spoken = lecture.slides.filter((slide) => all.some((answer) => answer.slideId === slide.id))
  const unsent = (link?.voices ?? []).filter((voice) => voice.sent.length === 0)
  const seconds = scaleOf(answers)
  const scale = { width, seconds, pixelsASecond: width / seconds }
  return (
    <div className="flex min-h-dvh flex-col">
      <TopBar place={say('Answers')} lecture={lecture} hasHeading />
      <main className="grow">
        <div className="flex flex-wrap items-end gap-x-6 gap-y-2 px-4 py-4">
          <div>
            <h1 className="font-read text-2xl font-semibold">
              {say('Answers')}
              {link && (
                <>
                  {': '}
                  <bdi>{link.name}</bdi>
                </>
              )}
            </h1>
            <p className="text-sm text-base-content/75">
              {say('{count, plural, =0 {Nothing was sent yet} one {# answer} other {# answers}}', { count: answers.length })}
              {unsent.length > 0 &&
                say('. Nothing yet from {names}', {
                  names: unsent.map(({ name }) => name).join(', '),
                })}
            </p>
          </div>
          {answers.length > 0 && (
            <div className="ms-auto flex flex-wrap items-center gap-2">
              {spoken.length > 1 && (
                <select
                  className="select select-sm w-52 border-edge"
                  aria-label={say('Answers to')}
                  value={slideId ?? ''}
                  onChange={({ target }) => setSlideId(target.value || null)}
                >
                  <option value="">{say('All slides')}</option>
                  {spoken.map((slide) => (
                    <option key={slide.id} value={slide.id}>
                      {say('Slide {number}', { number: lecture.slides.indexOf(slide) + 1 })}
                    </option>
                  ))}
                </select>
              )}
              <Button kind="primary" onClick={row.toggle}>
                {row.isPlaying ? (
                  <Square size={14} fill="currentColor" aria-hidden />
                ) : (
                  <Play size={14} fill="currentColor" aria-hidden />
                )}
                {row.isPlaying ? say('Stop') : say('Hear them in a row')}
              </Button>
              <a className={buttonLook()} href={answersFolder(token, 'mp3')} download>
                <Download size={14} aria-hidden /> {say('Sounds and table')}
              </a>
            </div>
          )}
        </div>
        {answers.length === 0 ? (
          <p className="px-4">
            {say('Give the link to your class. What they send appears here, tidied and as loud as each other.')}{' '}
            <Link className="link" to={`/lectures/${lecture.id}`}>
              {say('To the sheet')}
            </Link>
          </p>
        ) : (
          <>
            <Ruler measure={measure} scale={scale} />
            <ul aria-label={say('Answers')} className="border-t border-base-300">
              {answers.map((answer) => (
                <AnswerRow
                  key={answer.id}
                  lecture={lecture}
                  answer={answer}
                  scale={scale}
                  isCurrent={row.currentId === answer.id}
                  isPlaying={row.isPlaying && row.currentId === answer.id}
                  onPlay={() => row.toggleAt(answer.id)}
                  onDelete={() => void remove(answer)}
                />
              ))}
            </ul>
          </>
        )}
      </main>
    </div>
  )
}

export function AnswersPage() {
  const { id = '', link = '' } = useParams()
  const { data: lecture, error, isLoading } = api.useLectureQuery(id)
  if (isLoading) return <Loading what={say('the lecture')} />
  if (!lecture) return <NotFoundPage sentence={sentenceOf(error)} />
  return <Answers lecture={lecture} token={link} />
}
