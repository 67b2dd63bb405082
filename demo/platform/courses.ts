/** Packages that were added to the practice platform, and what each was told. */
import { randomUUID } from 'node:crypto'
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { dirname, join, normalize, sep } from 'node:path'
import { XMLParser } from 'fast-xml-parser'
import { strFromU8, unzipSync } from 'fflate'
import { type Cmi5Session, cmi5Faults, SESSION } from './cmi5-rules.ts'
import type { Json, StatementStore } from './statement-store.ts'

export type CourseKind = 'SCORM 1.2' | 'SCORM 2004' | 'cmi5' | 'xAPI'
const LEARNER = { objectType: 'Agent', account: { homePage: 'https://platform.example', name: 'learner-1' } }
const parser = new XMLParser({ ignoreAttributes: false, attributeNamePrefix: '@', parseTagValue: false })

export class NoPackage extends Error {}

/** What its manifest says. */
function readManifest(files: Record<string, Uint8Array>): { kind: CourseKind; title: string; entry: string; activityId: string } {
  const read = (name: string) => (files[name] ? parser.parse(strFromU8(files[name])) : null)
  const [content, cmi5, xapi] = [read('imsmanifest.xml')?.manifest, read('cmi5.xml')?.courseStructure, read('tincan.xml')?.tincan]
  if (content?.metadata?.schema === 'ADL SCORM') {
    const { title } = content.organizations.organization
    const kind = content.metadata.schemaversion === '1.2' ? 'SCORM 1.2' : 'SCORM 2004'
    return { kind, title, entry: content.resources.resource['@href'], activityId: '' }
  }
  if (cmi5) return { kind: 'cmi5', title: cmi5.au.title.langstring['#text'], entry: cmi5.au.url, activityId: cmi5.au['@id'] }
  if (xapi) {
    const { activity } = xapi.activities
    return { kind: 'xAPI', title: activity.name, entry: activity.launch['#text'], activityId: activity['@id'] }
  }
  throw new NoPackage('This is no SCORM, cmi5 or xAPI package: no manifest of one stands at its root.')
}

export class Course {
  readonly id = randomUUID()
  readonly folder = mkdtempSync(join(tmpdir(), 'lectern-platform-'))
  readonly kind: CourseKind
  readonly title: string
  readonly entry: string
  readonly activityId: string
  readonly registration = randomUUID()
  readonly store: StatementStore
  /** What SCORM has told last, as its runtime gives it. */
  cmi: Json | null = null
  /** Errors that the runtime told. */
  readonly errors: string[] = []
  #sessions: (Cmi5Session & { token: string; isFetched: boolean })[] = []

  /** @throws NoPackage */
  constructor(zip: Uint8Array, store: StatementStore) {
    const files = unzipSync(zip)
    const { kind, title, entry, activityId } = readManifest(files)
    this.kind = kind
    this.title = title
    this.entry = entry
    this.activityId = activityId
    this.store = store
    for (const [name, bytes] of Object.entries(files)) {
      const path = normalize(join(this.folder, name))
      if (name.endsWith('/') || !path.startsWith(`${this.folder}${sep}`)) continue
      mkdirSync(dirname(path), { recursive: true })
      writeFileSync(path, bytes)
    }
  }

  end() {
    rmSync(this.folder, { recursive: true, force: true })
  }

  /** Begins a session of cmi5 or xAPI. @param origin of the platform @returns the query that the page is opened with */
  launch(origin: string): URLSearchParams {
    const session = { registration: this.registration, sessionId: randomUUID(), activityId: this.activityId }
    const token = Buffer.from(`${this.id}:${session.sessionId}`).toString('base64')
    this.#sessions.push({ ...session, token, isFetched: false })
    const told = { endpoint: `${origin}/xapi/`, actor: JSON.stringify(LEARNER), registration: this.registration }
    if (this.kind === 'xAPI') return new URLSearchParams({ ...told, auth: `Basic ${token}`, activity_id: this.activityId })
    const launchData = {
      contextTemplate: {
        extensions: { [SESSION]: session.sessionId },
        contextActivities: { grouping: [{ id: `${this.activityId}/at-the-platform` }] },
      },
      launchMode: 'Normal',
      moveOn: 'Completed',
      returnURL: `${origin}/`,
    }
    const state = new URLSearchParams({
      activityId: this.activityId,
      agent: JSON.stringify(LEARNER),
      stateId: 'LMS.LaunchData',
      registration: this.registration,
    })
    this.store.putDocument(documentKey('state', state), Buffer.from(JSON.stringify(launchData)), 'application/json')
    return new URLSearchParams({ ...told, fetch: `${origin}/cmi5/${this.id}/${session.sessionId}`, activityId: this.activityId })
  }

  /** The token of a session, which is given once. @see cmi5 §8.2.3 */
  fetchToken(sessionId: string): Json {
    const session = this.#sessions.find((one) => one.sessionId === sessionId)
    if (!session) return { 'error-code': '3', 'error-text': 'There is no such session' }
    if (session.isFetched) return { 'error-code': '1', 'error-text': 'The token was given already' }
    session.isFetched = true
    return { 'auth-token': session.token }
  }

  hasToken = (token: string) => this.#sessions.some((one) => one.token === token)

  statements = () => this.store.all({ registration: this.registration })

  told(): { status: string; place: string; time: string; score: string; faults: string[] } {
    if (this.kind === 'SCORM 1.2' || this.kind === 'SCORM 2004') {
      const cmi = (this.cmi?.cmi ?? {}) as Json
      const core = (cmi.core ?? cmi) as Json
      const score = core.score as Json | undefined
      const { lesson_status, completion_status, lesson_location, location, session_time, total_time } = core
      return {
        status: String(lesson_status ?? completion_status ?? 'not begun'),
        place: String(lesson_location ?? location ?? ''),
        time: String(session_time ?? total_time ?? ''),
        score: String(score?.scaled || score?.raw || ''),
        faults: this.errors,
      }
    }
    const all = this.statements()
    const verbs = all.map((one) =>
      String((one.verb as Json).id)
        .split('/')
        .at(-1),
    )
    const last = all.findLast((one) => (one.result as Json | undefined)?.duration)
    return {
      status: verbs.includes('completed') ? 'completed' : verbs.length > 0 ? 'incomplete' : 'not begun',
      place: '',
      time: String((last?.result as Json | undefined)?.duration ?? ''),
      score: rightOf(all),
      faults:
        this.kind === 'xAPI'
          ? []
          : this.#sessions.flatMap((session) => {
              const own = all.filter(
                (one) => ((one.context as Json).extensions as Json | undefined)?.[SESSION] === session.sessionId,
              )
              return own.length > 0 ? cmi5Faults(own, session) : []
            }),
    }
  }
}

/** How many answers were right, of those that were told. */
function rightOf(statements: readonly Json[]): string {
  const answers = new Map(
    statements
      .filter((one) => String((one.verb as Json).id).endsWith('/answered'))
      .map((one) => [(one.object as Json).id, (one.result as Json).success === true]),
  )
  return answers.size === 0 ? '' : `${[...answers.values()].filter(Boolean).length} of ${answers.size}`
}

/** Under which name a document is kept: by what it belongs to, whatever the order in which that is said. */
export function documentKey(resource: string, query: URLSearchParams): string {
  const said = [...query]
    .filter(([name]) => name !== 'method')
    .map(([name, value]) => [name, name === 'agent' ? sorted(value) : value])
  return `${resource} ${JSON.stringify(said.sort(([a], [b]) => (a! < b! ? -1 : 1)))}`
}
const sorted = (json: string) => {
  try {
    return JSON.stringify(JSON.parse(json), Object.keys(JSON.parse(json)).sort())
  } catch {
    return json
  }
}
