/** Whether whoever looks at a lecture may change it. */
import { holds } from '#core/people/rights.ts'
import { sharingApi } from '#web/data/endpoints/sharing.ts'
import { isSchool } from '#web/sign-in/is-school.ts'

/** @returns true where one is alone, and until the server has said otherwise */
export function useMayChange(lectureId: string | undefined): boolean {
  const { data } = sharingApi.useMembersQuery(lectureId ?? '', { skip: !isSchool() || lectureId === undefined })
  return data === undefined || holds(data.right, 'edit')
}
