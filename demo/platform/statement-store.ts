/**
 * A small store of xAPI statements and documents, in memory.
 *
 * @see Experience API 1.0.3, part 2, §2.2 (form of statements), part 3, §2.1 (statements), §2.3 (states), §2.4 (profiles)
 */

export type Json = { [name: string]: unknown }

const UUID = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/i
const IRI = /^[a-z][a-z0-9+.-]*:\S+$/i
const DURATION = /^P(?!$)(\d+D)?(T(?=\d)(\d+H)?(\d+M)?(\d+(\.\d+)?S)?)?$/
const within = (value: unknown, name: string) => (value as Json | undefined)?.[name]

/** @returns what is wrong with a statement; nothing where it can be taken */
export function faultsOf(statement: Json): string[] {
  const { id, actor, verb, object, result, context, timestamp } = statement
  const faults: string[] = []
  if (typeof id !== 'string' || !UUID.test(id)) faults.push('id is no UUID')
  const who = actor as Json | undefined
  if (!who || !(who.account || who.mbox || who.mbox_sha1sum || who.openid)) faults.push('actor cannot be told')
  if (!IRI.test(String(within(verb, 'id')))) faults.push('verb has no IRI')
  if (!IRI.test(String(within(object, 'id')))) faults.push('object has no IRI')
  const duration = within(result, 'duration')
  if (duration !== undefined && !DURATION.test(String(duration))) faults.push('duration is not of ISO 8601')
  const registration = within(context, 'registration')
  if (registration !== undefined && !UUID.test(String(registration))) faults.push('registration is no UUID')
  if (timestamp !== undefined && Number.isNaN(Date.parse(String(timestamp)))) faults.push('timestamp is no time')
  return faults
}

const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b)

export class StatementStore {
  readonly #statements = new Map<string, Json>()
  readonly #documents = new Map<string, { body: Uint8Array<ArrayBuffer>; type: string }>()

  /** @returns 409 where another one has the id of one of them, 400 with what is wrong, or 200 and their ids */
  add(statements: readonly Json[]): { status: 200; ids: string[] } | { status: 400 | 409; faults: string[] } {
    const faults = statements.flatMap(faultsOf)
    if (faults.length > 0) return { status: 400, faults }
    for (const one of statements) {
      const known = this.#statements.get(one.id as string)
      if (known && !same(known, one)) return { status: 409, faults: [`Another statement has the id ${one.id}`] }
    }
    for (const one of statements) this.#statements.set(one.id as string, one)
    return { status: 200, ids: statements.map((one) => one.id as string) }
  }

  /** In the order in which they came. */
  all(wanted: { activityId?: string; registration?: string; verb?: string } = {}): Json[] {
    return [...this.#statements.values()].filter(
      (one) =>
        (!wanted.activityId || within(one.object, 'id') === wanted.activityId) &&
        (!wanted.verb || within(one.verb, 'id') === wanted.verb) &&
        (!wanted.registration || within(one.context, 'registration') === wanted.registration),
    )
  }

  one = (id: string): Json | null => this.#statements.get(id) ?? null

  putDocument(key: string, body: Uint8Array<ArrayBuffer>, type: string) {
    this.#documents.set(key, { body, type })
  }
  document = (key: string) => this.#documents.get(key) ?? null
  deleteDocument = (key: string) => void this.#documents.delete(key)
}
