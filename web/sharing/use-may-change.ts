/** What whoever looks at a lecture may do to it. */
import { holds, type Right } from '#core/people/rights.ts'
import { sharingApi } from '#web/data/endpoints/sharing.ts'
import { isSchool } from '#web/sign-in/is-school.ts'

/** @returns undefined until the server has said it, and while it cannot; who is alone owns everything */
export function useRight(lectureId: string | undefined): Right | null | undefined {
  const skip = !isSchool() || lectureId === undefined
  const { data } = sharingApi.useMembersQuery(lectureId ?? '', { skip })
  return skip ? 'own' : data?.right
}

/** @returns true where one is alone, and until the server has said otherwise */
export function useMayChange(lectureId: string | undefined): boolean {
  const right = useRight(lectureId)
  return right === undefined || holds(right, 'edit')
}
