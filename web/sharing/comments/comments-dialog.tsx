/** What was said of a slide: each at its moment, with answers, until it is settled. */

import { Check, Play, Trash2, Undo2 } from 'lucide-react'
import { type FormEvent, useState } from 'react'
import { toast } from 'sonner'
import type { Lecture } from '#core/model/lecture.ts'
import type { Slide } from '#core/model/slide.ts'
import { type Comment, momentOfComment, placeOfComment, talksOf } from '#core/people/comment.ts'
import { holds } from '#core/people/rights.ts'
import { lectureSeconds, toSeconds } from '#core/timing/clocks.ts'
import type { ScheduledSlide } from '#core/timing/scheduled.ts'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { clock, moment } from '#web/components/format.ts'
import { Dialog } from '#web/components/overlay/dialog.tsx'
import { commentsApi } from '#web/data/endpoints/comments.ts'
import { sharingApi } from '#web/data/endpoints/sharing.ts'
import { signInApi } from '#web/data/endpoints/sign-in.ts'
import { orTell } from '#web/data/or-tell.ts'
import { player } from '#web/playback/player.ts'

interface CommentsDialogProps {
  lecture: Lecture
  slide: Slide
  index: number
  scheduled: ScheduledSlide | undefined
  comments: readonly Comment[]
  onClose: () => void
}

function Said({ comment, isMine }: { comment: Comment; isMine: boolean }) {
  const [remove] = commentsApi.useDeleteCommentMutation()
  const { id, name, text, createdAt } = comment
  const take = async () => {
    if (!(await orTell(remove({ id, deleted: true }).unwrap()))) return
    toast(say('The comment was deleted.'), {
      action: { label: say('Undo'), onClick: () => void orTell(remove({ id, deleted: false }).unwrap()) },
    })
  }
  return (
    <div className="flex items-start gap-2">
      <p className="min-w-0 grow whitespace-pre-line" dir="auto">
        <bdi className="font-medium">{name ?? say('somebody who was erased')}</bdi>
        <span className="text-sm text-base-content/75"> · {moment(createdAt)}</span>
        <br />
        {text}
      </p>
      {isMine && (
        <Button kind="ghost" size="xs" square aria-label={say('Delete this comment')} onClick={() => void take()}>
          <Trash2 size={14} aria-hidden />
        </Button>
      )}
    </div>
  )
}

/** What was typed and not sent, by what it is about: who closes the dialog finds it there again. */
const drafts = new Map<string, string>()

interface WriteProps {
  /** What it is about: a slide, or the comment that is answered. */
  of: string
  label: string
  act: string
  /** @returns whether it was taken */
  onSend: (text: string) => Promise<boolean>
}

/** A field that sends what was written. */
function Write({ of, label, act, onSend }: WriteProps) {
  const [text, setText] = useState(() => drafts.get(of) ?? '')
  const type = (typed: string) => {
    drafts.set(of, typed)
    setText(typed)
  }
  const send = async (event: FormEvent) => {
    event.preventDefault()
    // what was not taken stays to be sent again
    if (await onSend(text)) type('')
  }
  return (
    <form className="grid gap-2" onSubmit={(event) => void send(event)}>
      <textarea
        className="textarea w-full border-edge bg-base-100"
        aria-label={label}
        placeholder={label}
        dir="auto"
        rows={2}
        maxLength={5000}
        value={text}
        onChange={({ target }) => type(target.value)}
      />
      <p>
        <Button type="submit" disabled={text.trim() === ''}>
          {act}
        </Button>
      </p>
    </form>
  )
}

interface TalkProps extends Pick<CommentsDialogProps, 'lecture' | 'slide' | 'scheduled' | 'onClose'> {
  talk: ReturnType<typeof talksOf>[number]
  me: string | null
  mayComment: boolean
}

function Talk({ lecture, slide, scheduled, talk, me, mayComment, onClose }: TalkProps) {
  const [settle] = commentsApi.useSettleCommentMutation()
  const [add] = commentsApi.useAddCommentMutation()
  const { comment, answers } = talk
  const at = scheduled ? momentOfComment(comment, slide, scheduled) : null
  const isSettled = comment.settledAt !== null
  const act = isSettled ? say('Open it again') : say('Settled')
  return (
    <li className={`grid gap-2 border-t border-base-300 py-3 ${isSettled ? 'opacity-75' : ''}`}>
      <div className="flex flex-wrap items-center justify-between gap-2 text-sm">
        {at !== null && scheduled ? (
          <Button
            kind="ghost"
            size="xs"
            aria-label={say('Hear it from {time}', { time: clock(at - toSeconds(scheduled.startSamples)) })}
            onClick={() => {
              onClose()
              player.play(at)
            }}
          >
            <Play size={13} fill="currentColor" aria-hidden /> {clock(at - toSeconds(scheduled.startSamples))}
          </Button>
        ) : (
          <span className="text-base-content/75">
            {comment.at === null ? say('about the whole slide') : say('about a take that is not kept, or what was cut out')}
          </span>
        )}
        {mayComment && (
          <Button kind="ghost" size="xs" onClick={() => void orTell(settle({ id: comment.id, settled: !isSettled }).unwrap())}>
            {isSettled ? <Undo2 size={14} aria-hidden /> : <Check size={14} aria-hidden />} {act}
          </Button>
        )}
      </div>
      <Said comment={comment} isMine={comment.personId === me} />
      {answers.length > 0 && (
        <div className="ms-3 grid gap-2 border-s-2 border-base-300 ps-3">
          {answers.map((answer) => (
            <Said key={answer.id} comment={answer} isMine={answer.personId === me} />
          ))}
        </div>
      )}
      {mayComment && !isSettled && (
        <Write
          of={comment.id}
          label={say('Answer')}
          act={say('Answer')}
          onSend={(text) => {
            const place = { takeId: comment.takeId, at: comment.at }
            return orTell(add({ lectureId: lecture.id, slideId: slide.id, ...place, text, answerTo: comment.id }).unwrap())
          }}
        />
      )}
    </li>
  )
}

export function CommentsDialog({ lecture, slide, index, scheduled, comments, onClose }: CommentsDialogProps) {
  const { data: me } = signInApi.useMeQuery()
  const { data: members } = sharingApi.useMembersQuery(lecture.id)
  const [add] = commentsApi.useAddCommentMutation()
  // where the lecture stood when the press came
  const [place] = useState(() => (scheduled ? placeOfComment(lectureSeconds(player.position()), slide, scheduled) : null))
  const [isHere, setIsHere] = useState(place !== null)
  const mayComment = holds(members?.right ?? null, 'comment')
  const talks = talksOf(comments).sort((a, b) => Number(a.comment.settledAt !== null) - Number(b.comment.settledAt !== null))
  const stands = place && scheduled ? momentOfComment(place, slide, scheduled) : null
  const send = (text: string) => {
    const { takeId, at } = isHere && place ? place : { takeId: null, at: null }
    return orTell(add({ lectureId: lecture.id, slideId: slide.id, takeId, at, text, answerTo: null }).unwrap())
  }
  return (
    <Dialog
      title={say('Comments on slide {number}', { number: index + 1 })}
      width="max-w-xl"
      layout="grid gap-3"
      onClose={onClose}
    >
      {talks.length === 0 && <p className="text-base-content/75">{say('Nothing was said of this slide yet.')}</p>}
      <ul className="max-h-[50vh] overflow-auto" aria-label={say('Comments')}>
        {talks.map((talk) => (
          <Talk
            key={talk.comment.id}
            lecture={lecture}
            slide={slide}
            scheduled={scheduled}
            talk={talk}
            me={me?.person?.id ?? null}
            mayComment={mayComment}
            onClose={onClose}
          />
        ))}
      </ul>
      {mayComment ? (
        <div className="grid gap-2 border-t border-base-300 pt-3">
          {stands !== null && scheduled && (
            <label className="flex items-center gap-2 text-sm">
              <input
                type="checkbox"
                className="checkbox checkbox-xs border-edge"
                checked={isHere}
                onChange={({ target }) => setIsHere(target.checked)}
              />
              {say('at {time}, where the lecture stands', { time: clock(stands - toSeconds(scheduled.startSamples)) })}
            </label>
          )}
          <Write of={slide.id} label={say('A comment')} act={say('Comment')} onSend={send} />
        </div>
      ) : (
        <p className="text-sm text-base-content/75">{say('You may read what was said, but not comment.')}</p>
      )}
      <p>
        <Button kind="ghost" onClick={onClose}>
          {say('Done')}
        </Button>
      </p>
    </Dialog>
  )
}
