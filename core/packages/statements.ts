/**
 * What is told by xAPI, and by cmi5, which says more exactly what to say.
 *
 * @see Experience API 1.0.3, part 2, §2 (statements), part 3, §2 (resources); cmi5 (Quartz), §7.1.3, §8.1, §9 and §10
 */
import { isoDuration } from './durations.ts'
import type { Interaction } from './interactions.ts'

const VERBS = {
  initialized: 'http://adlnet.gov/expapi/verbs/initialized',
  progressed: 'http://adlnet.gov/expapi/verbs/progressed',
  completed: 'http://adlnet.gov/expapi/verbs/completed',
  terminated: 'http://adlnet.gov/expapi/verbs/terminated',
} as const
export type Verb = keyof typeof VERBS

/** What somebody was heard of, in whole hundredths. @see cmi5 §9.5.5.1 */
const PROGRESS = 'https://w3id.org/xapi/cmi5/result/extensions/progress'
const CMI5 = { id: 'https://w3id.org/xapi/cmi5/context/categories/cmi5' }
const MOVE_ON = { id: 'https://w3id.org/xapi/cmi5/context/categories/moveon' }

/** Who is told of, as the platform gave it: an agent, which is passed on unread. */
export type Actor = Record<string, unknown>

export interface Launch {
  isCmi5: boolean
  actor: Actor
  activityId: string
  registration: string | null
  /** What the platform wants to stand in each statement (cmi5); nothing for plain xAPI. */
  contextTemplate: Record<string, unknown>
  title: string
  language: string
}

interface Said {
  id: string
  at: Date
  sessionSeconds: number
  /** 0 to 1. */
  heardShare: number
}

function resultOf(verb: Verb, { sessionSeconds, heardShare }: Said): Record<string, unknown> | undefined {
  const extensions = { [PROGRESS]: Math.floor(heardShare * 100) }
  const duration = isoDuration(sessionSeconds)
  if (verb === 'initialized') return undefined
  if (verb === 'progressed') return { extensions }
  if (verb === 'terminated') return { duration }
  return { completion: true, duration }
}

/** @param said when, and of what; its id is the statement's: sent twice it counts once */
export function statement(verb: Verb, launch: Launch, said: Said): Record<string, unknown> {
  const { isCmi5, actor, activityId, registration, contextTemplate, title, language } = launch
  const template = (contextTemplate.contextActivities ?? {}) as Record<string, unknown[]>
  // progressed is no statement that cmi5 defines: it has its own categories only where it does
  const categories = [...(isCmi5 && verb !== 'progressed' ? [CMI5] : []), ...(isCmi5 && verb === 'completed' ? [MOVE_ON] : [])]
  const contextActivities =
    categories.length > 0 ? { ...template, category: [...(template.category ?? []), ...categories] } : template
  const result = resultOf(verb, said)
  return {
    id: said.id,
    actor,
    verb: { id: VERBS[verb], display: { en: verb } },
    object: { objectType: 'Activity', id: activityId, definition: { name: { [language]: title } } },
    ...(result && { result }),
    context: {
      ...contextTemplate,
      ...(registration && { registration }),
      ...(Object.keys(contextActivities).length > 0 && { contextActivities }),
    },
    timestamp: said.at.toISOString(),
  }
}

const INTERACTION = 'http://adlnet.gov/expapi/activities/cmi.interaction'

/** An answer, as a statement about the question. @param said its id is the statement's */
export function answerStatement(
  launch: Launch,
  said: Pick<Said, 'id' | 'at'>,
  { id, type, response, isRight, text }: Interaction,
): Record<string, unknown> {
  const { actor, activityId, registration, contextTemplate, language } = launch
  const template = (contextTemplate.contextActivities ?? {}) as Record<string, unknown[]>
  return {
    id: said.id,
    actor,
    verb: { id: 'http://adlnet.gov/expapi/verbs/answered', display: { en: 'answered' } },
    object: {
      objectType: 'Activity',
      id: `${activityId}/${id}`,
      definition: { type: INTERACTION, interactionType: type, description: { [language]: text } },
    },
    result: { response, success: isRight },
    context: {
      ...contextTemplate,
      ...(registration && { registration }),
      contextActivities: { ...template, parent: [...(template.parent ?? []), { objectType: 'Activity', id: activityId }] },
    },
    timestamp: said.at.toISOString(),
  }
}
