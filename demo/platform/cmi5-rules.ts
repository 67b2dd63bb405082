/** Whether a session keeps the rules of cmi5. @see cmi5 (Quartz), §9.3 (verbs and their order), §9.5 (results), §9.6 (context) */
import type { Json } from './statement-store.ts'

const CATEGORY = 'https://w3id.org/xapi/cmi5/context/categories/cmi5'
const MOVE_ON = 'https://w3id.org/xapi/cmi5/context/categories/moveon'
const verbOf = (statement: Json) =>
  String((statement.verb as Json).id)
    .split('/')
    .at(-1)!
const categoriesOf = (statement: Json): string[] => {
  const activities = (statement.context as Json | undefined)?.contextActivities as Json | undefined
  return ((activities?.category ?? []) as Json[]).map(({ id }) => String(id))
}

export interface Cmi5Session {
  registration: string
  sessionId: string
  activityId: string
}
/** Extension of the context by which a platform knows a session. @see cmi5 §9.6.3.1 */
export const SESSION = 'https://w3id.org/xapi/cmi5/context/extensions/sessionid'

/** @param statements of one session, in order @returns what breaks a rule; nothing where all are kept */
export function cmi5Faults(statements: readonly Json[], { registration, sessionId, activityId }: Cmi5Session): string[] {
  const defined = statements.filter((one) => categoriesOf(one).includes(CATEGORY))
  const verbs = defined.map(verbOf)
  const faults: string[] = []
  if (verbs[0] !== 'initialized') faults.push('§9.3.2: the first statement is not initialized')
  if (verbs.filter((verb) => verb === 'initialized').length > 1) faults.push('§9.3.2: initialized more than once')
  if (verbs.filter((verb) => verb === 'completed').length > 1) faults.push('§9.3.3: completed more than once')
  const ends = verbs.indexOf('terminated')
  if (ends >= 0 && ends < verbs.length - 1) faults.push('§9.3.8: something follows terminated')
  for (const one of statements) {
    const context = (one.context ?? {}) as Json
    const verb = verbOf(one)
    if (context.registration !== registration) faults.push(`§9.6.1: ${verb} has another registration`)
    if ((context.extensions as Json | undefined)?.[SESSION] !== sessionId) faults.push(`§9.6.3.1: ${verb} has another session`)
    if ((one.object as Json).id !== activityId) faults.push(`§9.4: ${verb} is of another activity`)
  }
  for (const one of defined) {
    const [verb, result] = [verbOf(one), (one.result ?? {}) as Json]
    if ((verb === 'completed' || verb === 'terminated') && !result.duration) faults.push(`§9.5.4: ${verb} has no duration`)
    if (verb === 'completed' && result.completion !== true) faults.push('§9.5.3: completed has no completion')
    if (verb !== 'completed' && 'completion' in result) faults.push(`§9.5.3: ${verb} has a completion`)
    if ((verb === 'completed') !== categoriesOf(one).includes(MOVE_ON)) faults.push(`§9.6.2.2: the category moveOn of ${verb}`)
  }
  return faults
}
