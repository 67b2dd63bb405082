/**
 * Tells an xAPI store how far somebody has come, as plain xAPI or by the rules of cmi5. What the store does not take now is kept in the browser and
 * told later.
 *
 * @see Experience API 1.0.3, part 3, §2.1 (statements), §2.3 (state); cmi5 (Quartz), §8 (content launch), §9.3 (verbs), §10 (launch data)
 */

import { type Interaction, interactionOf } from '#core/packages/interactions.ts'
import {
  type KeptListening,
  type LectureTimes,
  NOTHING_KEPT,
  type Progress,
  packListening,
  unpackListening,
} from '#core/packages/listening.ts'
import { type Actor, answerStatement, type Launch, statement, type Verb } from '#core/packages/statements.ts'
import { type Stretch, secondsOf, withStretch } from '#core/packages/stretches.ts'
import { recall, remember } from '#web/watch/edition/remember.ts'
import type { Report } from './report.ts'

const VERSION = '1.0.3'
const STATE = 'tidy-lectern.listening'
/** Statements and states are small; this is for lectures that were heard in thousands of pieces. */
const MOST_CHARACTERS = 60_000
/** What a browser sends on after its page is gone. */
const LASTING = { keepalive: true }

export interface XapiLaunch extends Launch {
  endpoint: string
  /** Plain xAPI is given its authorization; cmi5 asks for it, once, here. */
  auth: { header: string } | { fetch: string }
}

/** @returns null where the page was not opened by a platform */
export function launchOf(
  kind: 'cmi5' | 'xapi',
  given: URLSearchParams,
  { title, language, activityId }: { title: string; language: string; activityId: string },
): XapiLaunch | null {
  const [endpoint, actor] = [given.get('endpoint'), given.get('actor')]
  const [fetch, auth] = [given.get('fetch'), given.get('auth')]
  if (!endpoint || !actor || !(kind === 'cmi5' ? fetch : auth)) return null
  try {
    return {
      isCmi5: kind === 'cmi5',
      endpoint: endpoint.endsWith('/') ? endpoint : `${endpoint}/`,
      auth: kind === 'cmi5' ? { fetch: fetch! } : { header: auth! },
      actor: JSON.parse(actor) as Actor,
      activityId: given.get('activityId') ?? given.get('activity_id') ?? activityId,
      registration: given.get('registration'),
      contextTemplate: {},
      title,
      language,
    }
  } catch {
    return null
  }
}

const union = (a: readonly Stretch[], b: readonly Stretch[]) => b.reduce<Stretch[]>(withStretch, [...a])

export class XapiReport implements Report {
  readonly isLate = true
  readonly learner: string
  readonly #launch: XapiLaunch
  readonly #times: LectureTimes
  #header: string | null = null
  #contextTemplate: Record<string, unknown> = {}
  /** In a review only that it began and ended is told. */
  #counts = true
  #wasCompleted = false
  #toldHundredths = 0
  readonly #toldAnswers = new Map<string, string>()
  #waiting: Record<string, unknown>[]
  #turn: Promise<unknown> = Promise.resolve()

  constructor(launch: XapiLaunch, times: LectureTimes) {
    this.#launch = launch
    this.#times = times
    this.learner = JSON.stringify(launch.actor)
    this.#waiting = this.#remembered('statements', [])
  }

  async begin(): Promise<KeptListening | null> {
    const here = this.#read(this.#remembered('listening', ''))
    let there: KeptListening | null = null
    try {
      await this.#signIn()
      there = this.#read(await this.#state())
    } catch {
      // it may answer later: until then the browser keeps all
    }
    // what was not told when the line was away stands here alone
    const kept = there && secondsOf(there.heard) >= secondsOf(here.heard) ? there : here
    this.#wasCompleted = here.isCompleted || there?.isCompleted === true
    this.#toldHundredths = 0
    this.#say('initialized', {
      ...NOTHING_KEPT,
      ...kept,
      heardShare: 0,
      sessionSeconds: 0,
      slidesSeen: 0,
      slides: 0,
      answered: [],
      questions: 0,
    })
    void this.#send()
    if (there === null && here.heard.length === 0) return null
    return { place: kept.place, heard: union(here.heard, there?.heard ?? []), isCompleted: this.#wasCompleted }
  }

  tell(progress: Progress) {
    this.#note(progress)
    this.#turn = this.#turn.then(async () => {
      await this.#send()
      await this.#keep(progress)
    })
  }

  end(progress: Progress) {
    this.#note(progress)
    this.#say('terminated', progress)
    void this.#send(LASTING)
    void this.#put(progress, LASTING).catch(() => {})
  }

  /** What is to be told of it, and is kept here whatever becomes of that. */
  #note(progress: Progress) {
    this.#remember('listening', packListening(progress, this.#times.lengthSeconds, MOST_CHARACTERS))
    if (!this.#counts) return
    for (const one of progress.answered) this.#noteAnswer(interactionOf(one, '[,]'))
    const hundredths = Math.floor(progress.heardShare * 100)
    if (progress.isCompleted && !this.#wasCompleted) {
      this.#wasCompleted = true
      this.#say('completed', progress)
    } else if (hundredths > this.#toldHundredths && hundredths < 100) this.#say('progressed', progress)
    this.#toldHundredths = Math.max(this.#toldHundredths, hundredths)
  }

  #noteAnswer(interaction: Interaction) {
    if (this.#toldAnswers.get(interaction.id) === interaction.response) return
    this.#toldAnswers.set(interaction.id, interaction.response)
    const launch = { ...this.#launch, contextTemplate: this.#contextTemplate }
    this.#waiting.push(answerStatement(launch, { id: crypto.randomUUID(), at: new Date() }, interaction))
    this.#remember('statements', this.#waiting)
  }

  #say(verb: Verb, progress: Progress) {
    const { sessionSeconds, heardShare } = progress
    const launch = { ...this.#launch, contextTemplate: this.#contextTemplate }
    this.#waiting.push(statement(verb, launch, { id: crypto.randomUUID(), at: new Date(), sessionSeconds, heardShare }))
    this.#remember('statements', this.#waiting)
  }

  async #signIn() {
    const { auth, isCmi5 } = this.#launch
    if ('header' in auth) this.#header = auth.header
    else if (this.#header === null) {
      const answer = await fetch(auth.fetch, { method: 'POST' })
      const { 'auth-token': token } = (await answer.json()) as { 'auth-token'?: string }
      if (!token) throw new Error('The platform gave no token')
      this.#header = `Basic ${token}`
    }
    if (!isCmi5) return
    const data = await this.#ask(`activities/state?${this.#stateQuery('LMS.LaunchData')}`)
    const { contextTemplate = {}, launchMode = 'Normal' } = (await data.json()) as {
      contextTemplate?: Record<string, unknown>
      launchMode?: string
    }
    this.#contextTemplate = contextTemplate
    this.#counts = launchMode === 'Normal'
    const agent = new URLSearchParams({ profileId: 'cmi5LearnerPreferences', agent: JSON.stringify(this.#launch.actor) })
    await this.#ask(`agents/profile?${agent}`)
  }

  #ask(path: string, init: RequestInit = {}): Promise<Response> {
    const headers = { 'X-Experience-API-Version': VERSION, Authorization: this.#header ?? '', ...init.headers }
    return fetch(`${this.#launch.endpoint}${path}`, { ...init, headers })
  }

  #stateQuery(stateId: string): string {
    const { activityId, actor, registration } = this.#launch
    const said = { activityId, agent: JSON.stringify(actor), stateId, ...(registration && { registration }) }
    return new URLSearchParams(said).toString()
  }

  /** @returns what the store has; '' for nothing @throws where it does not answer */
  async #state(): Promise<string> {
    const answer = await this.#ask(`activities/state?${this.#stateQuery(STATE)}`)
    if (answer.status === 404) return ''
    if (!answer.ok) throw new Error(`${answer.status}`)
    return (await answer.text()).replace(/^"|"$/g, '')
  }

  /** Another tab may have heard something else meanwhile. */
  async #keep(progress: Progress) {
    try {
      const there = this.#read(await this.#state())
      const heard = union(there.heard, progress.heard)
      await this.#put({ ...progress, heard, isCompleted: progress.isCompleted || there.isCompleted })
    } catch {
      // told with the next report
    }
  }

  #put(kept: KeptListening, how: RequestInit = {}): Promise<Response> {
    const body = JSON.stringify(packListening(kept, this.#times.lengthSeconds, MOST_CHARACTERS))
    const init = { method: 'PUT', body, headers: { 'content-type': 'application/json' }, ...how }
    return this.#ask(`activities/state?${this.#stateQuery(STATE)}`, init)
  }

  /** All that waits, at once: a store takes a statement that comes again for the one it has. */
  async #send(how: RequestInit = {}) {
    if (this.#waiting.length === 0) return
    const all = [...this.#waiting]
    try {
      if (this.#header === null) await this.#signIn()
      // a store refuses all of them for one that it does not take: then each is sent by itself
      if (!(await this.#offer(all, how)) && all.length > 1) for (const one of all) await this.#offer([one], how)
    } catch {
      // it waits
    }
  }

  /** @returns false where the store refused them @throws where it cannot answer now */
  async #offer(statements: Record<string, unknown>[], how: RequestInit): Promise<boolean> {
    const headers = { 'content-type': 'application/json' }
    const { ok, status } = await this.#ask('statements', { method: 'POST', body: JSON.stringify(statements), headers, ...how })
    if (!ok && (status >= 500 || status === 401 || status === 429)) throw new Error(`${status}`)
    // what it will never take is not sent again and again
    if (ok || statements.length === 1) {
      this.#waiting = this.#waiting.filter((one) => !statements.includes(one))
      this.#remember('statements', this.#waiting)
    }
    return ok
  }

  #read = (text: string) => unpackListening(text, this.#times.lengthSeconds)

  #key = (what: string) => `report ${what} ${this.#launch.activityId} ${this.#launch.registration ?? ''} ${this.learner}`

  #remembered<T>(what: string, otherwise: T): T {
    try {
      return JSON.parse(recall(this.#key(what)) ?? 'null') ?? otherwise
    } catch {
      return otherwise
    }
  }

  #remember(what: string, value: unknown) {
    remember(this.#key(what), JSON.stringify(value))
  }
}
