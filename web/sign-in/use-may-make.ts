/** Whether whoever looks may make lectures. */
import { signInApi } from '#web/data/endpoints/sign-in.ts'
import { isSchool } from './is-school.ts'

/** @returns true where one is alone; a reviewer makes none */
export function useMayMake(): boolean {
  const { data: me } = signInApi.useMeQuery(undefined, { skip: !isSchool() })
  return !isSchool() || (me?.person !== null && me?.person?.role !== 'reviewer')
}
