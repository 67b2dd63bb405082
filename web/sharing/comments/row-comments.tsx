/** How many comments of a slide are open, as a thing to do; a press shows them. */

import { MessageSquare, MessageSquarePlus } from 'lucide-react'
import { lazy, Suspense, useState } from 'react'
import type { Lecture } from '#core/model/lecture.ts'
import type { Slide } from '#core/model/slide.ts'
import { talksOf } from '#core/people/comment.ts'
import type { ScheduledSlide } from '#core/timing/scheduled.ts'
import { say } from '#core/words/say.ts'
import { commentsApi } from '#web/data/endpoints/comments.ts'

const CommentsDialog = lazy(async () => ({ default: (await import('./comments-dialog.tsx')).CommentsDialog }))

interface RowCommentsProps {
  lecture: Lecture
  slide: Slide
  index: number
  scheduled: ScheduledSlide | undefined
}

export function RowComments({ lecture, slide, index, scheduled }: RowCommentsProps) {
  const { data: comments = [] } = commentsApi.useCommentsQuery(lecture.id)
  const [shown, setShown] = useState(false)
  const own = comments.filter((comment) => comment.slideId === slide.id)
  const open = talksOf(own).filter(({ comment }) => comment.settledAt === null).length
  return (
    <>
      <button
        type="button"
        className={`flex min-h-6 items-center gap-1 text-start ${open > 0 ? 'text-info underline' : 'text-base-content/75 hover:underline'}`}
        aria-label={say('Comments on slide {number}: {open} open', { number: index + 1, open })}
        onClick={() => setShown(true)}
      >
        {open > 0 ? <MessageSquare size={14} aria-hidden /> : <MessageSquarePlus size={14} aria-hidden />}
        {open > 0 ? say('{open, plural, one {# comment} other {# comments}}', { open }) : say('Comment')}
      </button>
      <Suspense>
        {shown && (
          <CommentsDialog
            lecture={lecture}
            slide={slide}
            index={index}
            scheduled={scheduled}
            comments={own}
            onClose={() => setShown(false)}
          />
        )}
      </Suspense>
    </>
  )
}
