/**
 * The words of titles and scripts, kept so that they are found at once: three letters in a row each (SQLite FTS5, trigram), which needs to
 * know no language. Triggers write down which slides have changed; they are read when somebody seeks, or when nobody waits.
 */
import { setTimeout as wait } from 'node:timers/promises'
import { and, inArray, sql } from 'drizzle-orm'
import { plainWords } from '#core/script/search/plain-words.ts'
import type { Database, Tables } from '#server/db/database.ts'
import { slides } from '#server/db/schema.ts'
import { isShownSlide } from '#server/db/shown.ts'

/** Slides that are read at a time: edits wait no longer than that takes. */
const AT_A_TIME = 4
/** Many times as long as reading them takes. */
const PAUSE_MS = 100
/** For so long it is read on before somebody is answered with what is known. */
const PATIENCE_MS = 2000

/** Scripts that write no spaces between words: each letter stands by itself, so that two of them in a row are found, too. */
const WITHOUT_SPACES = /[\p{sc=Han}\p{sc=Hiragana}\p{sc=Katakana}\p{sc=Thai}\p{sc=Lao}\p{sc=Khmer}\p{sc=Myanmar}]/gu
const spaced = (text: string) => plainWords(text).replace(WITHOUT_SPACES, ' $& ').replace(/\s+/g, ' ')

/** A text as it is kept: its words with a space before and after each. */
const asKept = (text: string) => ` ${spaced(text).trim()} `

/**
 * A word as it is sought, three letters at least.
 *
 * @returns what stands anywhere in a text; of one letter or two, what a word begins with, or is
 */
function asSought(term: string): string {
  const plain = spaced(term).trim()
  const letters = [...plain].length
  if (letters >= 3) return plain
  return letters === 2 ? ` ${plain}` : ` ${plain} `
}

/** Bits of a slide's number that are its own, before which stand those of its lecture: room for a million, those that were deleted among them. */
const BITS = sql.raw('20')

/** @returns a number for a slide that is read, which begins with that of its lecture */
async function numberFor(tx: Tables, slideId: string, lectureId: string): Promise<number> {
  await tx.run(sql`INSERT OR IGNORE INTO "lectureNumbers" ("lectureId") VALUES (${lectureId})`)
  const [row] = await tx.all<{ id: number }>(
    sql`INSERT INTO "slideNumbers" ("id", "slideId")
      SELECT coalesce((SELECT max(s."id") + 1 FROM "slideNumbers" s WHERE s."id" >= l."id" << ${BITS} AND s."id" < (l."id" + 1) << ${BITS}), l."id" << ${BITS}), ${slideId}
      FROM "lectureNumbers" l WHERE l."lectureId" = ${lectureId} RETURNING "id"`,
  )
  return row!.id
}

async function readSome(tx: Tables): Promise<number> {
  const due = (await tx.all<{ slideId: string }>(sql`SELECT "slideId" FROM "slidesToRead" LIMIT ${AT_A_TIME}`)).map(
    (row) => row.slideId,
  )
  if (due.length === 0) return 0
  const names = sql.join(
    due.map((id) => sql`${id}`),
    sql`, `,
  )
  await tx.run(sql`DELETE FROM "slideWords" WHERE "rowid" IN (SELECT "id" FROM "slideNumbers" WHERE "slideId" IN (${names}))`)
  await tx.run(sql`DELETE FROM "slideNumbers" WHERE "slideId" IN (${names})`)
  const shown = await tx
    .select({ id: slides.id, lectureId: slides.lectureId, title: slides.title, script: slides.script })
    .from(slides)
    .where(and(inArray(slides.id, due), isShownSlide))
  for (const { id, lectureId, title, script } of shown) {
    if (title === '' && script === '') continue
    const number = await numberFor(tx, id, lectureId)
    await tx.run(sql`INSERT INTO "slideWords" ("rowid", "words") VALUES (${number}, ${asKept(`${title}\n${script}`)})`)
  }
  await tx.run(sql`DELETE FROM "slidesToRead" WHERE "slideId" IN (${names})`)
  return due.length
}

const isDue = async (db: Database) => (await db.read.all(sql`SELECT 1 FROM "slidesToRead" LIMIT 1`)).length > 0

/** Reads what has changed, before somebody seeks, who does not wait for long. @returns whether all of it can be found now */
async function readWords(db: Database, patienceMs: number): Promise<boolean> {
  const until = performance.now() + patienceMs
  while (await isDue(db)) {
    if (performance.now() > until) return false
    await db.write(readSome)
  }
  return true
}

const reading = new WeakSet<Database>()

/** Reads what has changed while nobody waits for it: mostly there is a pause, in which others are served. */
export async function readWordsAtLeisure(db: Database, signal: AbortSignal, pauseMs = PAUSE_MS) {
  if (reading.has(db)) return
  reading.add(db)
  try {
    while (!signal.aborted && (await isDue(db))) {
      await db.write(readSome)
      await wait(pauseMs, undefined, { signal }).catch(() => {})
    }
  } finally {
    reading.delete(db)
  }
}

/**
 * @param terms one at least
 * @returns ids of lectures of which a slide holds all the words in its title or script, and whether the words of all slides were read yet
 */
export async function lecturesWithWords(
  db: Database,
  terms: readonly string[],
  patienceMs = PATIENCE_MS,
): Promise<{ ids: Set<string>; isAll: boolean }> {
  const isAll = await readWords(db, patienceMs)
  const question = terms.map((term) => `"${asSought(term).replaceAll('"', '""')}"`).join(' AND ')
  // as one row: thousands of rows take longer to hand over than to find
  const [row] = await db.read.all<{ ids: string }>(
    sql`SELECT json_group_array("lectureId") AS "ids" FROM "lectureNumbers" WHERE "id" IN
      (SELECT DISTINCT "rowid" >> ${BITS} FROM "slideWords" WHERE "slideWords" MATCH ${question})`,
  )
  return { ids: new Set(JSON.parse(row!.ids) as string[]), isAll }
}

/** @returns whether a slide holds all the words, as its index would say */
export function holdsWords({ title, script }: { title: string; script: string }, terms: readonly string[]): boolean {
  const kept = asKept(`${title}\n${script}`)
  return terms.every((term) => kept.includes(asSought(term)))
}
