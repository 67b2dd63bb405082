/** The database as a library wants it that writes for itself: what it writes waits its turn with all other writes. */
import type { Database, Tables } from '#server/db/database.ts'

type Call = [method: string, given: unknown[]]
const WRITES = ['insert', 'update', 'delete']

/** A statement that is made of calls, and made anew of them inside a transaction when somebody waits for it. */
function statement(db: Database, calls: Call[]): unknown {
  return new Proxy(() => {}, {
    get(_, name: string) {
      if (name !== 'then') return (...given: unknown[]) => statement(db, [...calls, [name, given]])
      const made = db.write(
        (tx) =>
          calls.reduce(
            (at, [method, given]) => (at as Record<string, (...all: unknown[]) => unknown>)[method]!(...given),
            tx as unknown,
          ) as Promise<unknown>,
      )
      return made.then.bind(made)
    },
  })
}

/** @returns tables that are read at once and written in turn; a transaction of several writes is none here */
export function queuedWrites(db: Database): Tables {
  return new Proxy(db.read as object, {
    get(target, name: string) {
      if (WRITES.includes(name)) return (...given: unknown[]) => statement(db, [[name, given]])
      const value = Reflect.get(target, name) as unknown
      return typeof value === 'function' ? value.bind(target) : value
    },
  }) as Tables
}
