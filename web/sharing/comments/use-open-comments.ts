/** Comments that wait to be settled. */
import { useMemo } from 'react'
import { talksOf } from '#core/people/comment.ts'
import { commentsApi } from '#web/data/endpoints/comments.ts'
import { isSchool } from '#web/sign-in/is-school.ts'

const NONE: ReadonlyMap<string, number> = new Map()

/** @returns how many are open, by slide; none where one is alone */
export function useOpenComments(lectureId: string): ReadonlyMap<string, number> {
  const { data } = commentsApi.useCommentsQuery(lectureId, { skip: !isSchool() })
  return useMemo(() => {
    if (!data) return NONE
    const open = new Map<string, number>()
    for (const { comment } of talksOf(data))
      if (comment.settledAt === null) open.set(comment.slideId, (open.get(comment.slideId) ?? 0) + 1)
    return open
  }, [data])
}
