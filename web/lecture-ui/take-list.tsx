/** Takes of a slide: listen, compare two, keep one, delete. */

import { Bot, Check, LifeBuoy, Trash2, User } from 'lucide-react'
import { useState } from 'react'
import { toast } from 'sonner'
import type { Lecture } from '#core/model/lecture.ts'
import type { Slide } from '#core/model/slide.ts'
import type { Take } from '#core/model/take.ts'
import { isPracticeVoice } from '#core/recording/practice-voice.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { clock, lufs, moment } from '#web/components/format.ts'
import { PlayButton } from '#web/components/play-button.tsx'
import { soundUrl } from '#web/data/api.ts'
import { editOrTell, undo } from '#web/data/history.ts'
import { useAppDispatch } from '#web/data/store.ts'
import { CompareTakes } from './compare-takes.tsx'

function describe(take: Take): string {
  if (take.problem) return say(take.problem)
  if (take.state === 'recording') return say('being recorded')
  if (!take.analysis) return say('being tidied')
  if (take.analysis.speech.length === 0) return say('no voice found: was the microphone muted?')
  return lufs(take.analysis.loudnessLufs)
}

export function TakeList({ lecture, slide }: { lecture: Lecture; slide: Slide }) {
  const dispatch = useAppDispatch()
  const [comparing, setComparing] = useState<string | null>(null)
  const number = lecture.slides.findIndex((s) => s.id === slide.id) + 1
  const keep = (keptTakeId: string | null) => ({ kind: 'slide' as const, id: slide.id, change: { keptTakeId } })
  const choose = (take: Take) =>
    void dispatch(
      editOrTell({
        lectureId: lecture.id,
        label: say('take kept for slide {number}', { number }),
        forth: [keep(take.id)],
        back: [keep(slide.keptTakeId)],
      }),
    )
  const remove = async (take: Take) => {
    const deletion = (deleted: boolean) => ({ kind: 'take-deleted' as const, id: take.id, deleted })
    const back = take.id === slide.keptTakeId ? [deletion(false), keep(take.id)] : [deletion(false)]
    await dispatch(
      editOrTell({
        lectureId: lecture.id,
        label: say('deleting take {number} of slide {slide}', { number: take.number, slide: number }),
        forth: [deletion(true)],
        back,
      }),
    )
    toast(say('Take {number} was deleted.', { number: take.number }), {
      action: { label: say('Undo'), onClick: () => void dispatch(undo()) },
    })
  }
  if (slide.takes.length === 0) return <p className="text-sm text-base-content/75">{say('No take yet.')}</p>
  const compared = slide.takes.find(({ id }) => id === comparing)
  const sealed = slide.takes.filter(({ state }) => state === 'sealed')
  return (
    <>
      <ul aria-label={say('Takes of slide {number}', { number })} className="text-sm">
        {slide.takes.map((take) => {
          const kept = take.id === slide.keptTakeId
          const sound = take.clip?.sound ?? take.sound
          return (
            <li key={take.id} className="flex items-center gap-1.5 border-b border-base-300 py-1">
              <span className="min-w-0 grow">
                <span className="flex items-center gap-1 font-medium">
                  {say('Take {number}', { number: take.number })}
                  {take.speaker !== null && (
                    <span className="flex min-w-0 items-center gap-0.5">
                      <User size={14} aria-hidden className="shrink-0" /> <bdi className="truncate">{take.speaker}</bdi>
                    </span>
                  )}
                  {kept && (
                    <span className="flex items-center gap-0.5 text-success">
                      <Check size={14} aria-hidden /> {say('kept')}
                    </span>
                  )}
                  {isPracticeVoice(take) && (
                    <span className="flex items-center gap-0.5 text-error">
                      <Bot size={14} aria-hidden /> {say('practice voice')}
                    </span>
                  )}
                  {take.recovered && (
                    <span className="flex items-center gap-0.5 text-secondary">
                      <LifeBuoy size={14} aria-hidden /> {say('recovered')}
                    </span>
                  )}
                </span>
                <span className="text-base-content/75">
                  {clock(toSeconds(take.samples))} · {describe(take)} · {moment(take.startedAt)}
                  {take.dropoutCount > 0 &&
                    say(' · {dropoutCount, plural, one {# gap} other {# gaps}} in the sound, {dropoutMs} ms in all', {
                      dropoutCount: take.dropoutCount,
                      dropoutMs: take.dropoutMs,
                    })}
                </span>
                {!kept && take.state === 'sealed' && (
                  <span className="my-1 flex flex-wrap gap-1.5">
                    {sealed.length > 1 && (
                      <Button size="xs" onClick={() => setComparing(take.id)}>
                        {say('Compare')}
                      </Button>
                    )}
                    <Button size="xs" onClick={() => choose(take)}>
                      {say('Keep this one')}
                    </Button>
                  </span>
                )}
              </span>
              {sound && <PlayButton url={soundUrl(sound)} label={say('take {number}', { number: take.number })} />}
              {take.state === 'sealed' && (
                <Button
                  kind="ghost"
                  square
                  aria-label={say('Delete take {number}', { number: take.number })}
                  onClick={() => void remove(take)}
                >
                  <Trash2 size={15} aria-hidden />
                </Button>
              )}
            </li>
          )
        })}
      </ul>
      {compared && sealed.length > 1 && (
        <CompareTakes lectureId={lecture.id} slide={slide} take={compared} onKeep={choose} onClose={() => setComparing(null)} />
      )}
    </>
  )
}
