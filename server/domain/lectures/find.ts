/** Finding lectures by the words of their titles and scripts. */

import { and, asc, inArray, type SQL, sql } from 'drizzle-orm'
import { excerpt } from '#core/script/search/excerpt.ts'
import { plainWords } from '#core/script/search/plain-words.ts'
import type { Tables } from '#server/db/database.ts'
import { slides } from '#server/db/schema.ts'
import { isShownSlide } from '#server/db/shown.ts'

/** More words than anybody seeks. */
const MOST_TERMS = 8
/** The index knows three letters and more in a row. */
const LEAST_LETTERS = 3
/** Slides that are shown of one lecture. */
export const MOST_FOUND = 3

/** @returns the words that are sought, one each; what cannot be typed is left out */
export const termsOf = (words: string): string[] =>
  words
    .replace(/\p{C}/gu, ' ')
    .split(/\s+/u)
    .filter((term) => term !== '')
    .slice(0, MOST_TERMS)

/** As they may be written: the database knows upper and lower case of ASCII only. */
const spellings = (term: string) => [
  ...new Set([term, term.toLowerCase(), term.toUpperCase(), term.charAt(0).toUpperCase() + term.slice(1).toLowerCase()]),
]

/** Slides that hold all the words: in their index (SQLite FTS5, three letters in a row each), or read where a word is shorter. */
function holdAll(terms: readonly string[]): SQL {
  const isLong = (term: string) => [...term].length >= LEAST_LETTERS
  const sought = terms.filter(isLong).map((term) => `"${term.replaceAll('"', '""')}"`)
  const short = terms.filter((term) => !isLong(term))
  const inIndex = sql`${slides.id} IN (SELECT "slideNumbers"."slideId" FROM "slideWords" JOIN "slideNumbers" ON "slideNumbers"."id" = "slideWords"."rowid" WHERE "slideWords" MATCH ${sought.join(' AND ')})`
  const read = short.map(
    (term) =>
      sql`(${sql.join(
        spellings(term).map((one) => sql`instr(${slides.title} || char(10) || ${slides.script}, ${one}) > 0`),
        sql` OR `,
      )})`,
  )
  return and(...(sought.length > 0 ? [inIndex] : []), ...read)!
}

/** @returns ids of lectures of which a slide holds all the words in its title or script */
export async function lecturesWithWords(read: Tables, terms: readonly string[]): Promise<Set<string>> {
  const rows = await read
    .selectDistinct({ id: slides.lectureId })
    .from(slides)
    .where(and(isShownSlide, holdAll(terms)))
  return new Set(rows.map(({ id }) => id))
}

/** Whether a title holds all the words. */
export const titleHolds = (title: string, terms: readonly string[]) => {
  const plain = plainWords(title)
  return terms.every((term) => plain.includes(plainWords(term)))
}

export interface FoundSlide {
  slideId: string
  title: string
  /** Of its script, around the words. */
  excerpt: string
}

/** @returns the first slides of each lecture that hold all the words, by the lecture */
export async function slidesWithWords(
  read: Tables,
  lectureIds: readonly string[],
  terms: readonly string[],
): Promise<Map<string, FoundSlide[]>> {
  const rows = await read
    .select({ slideId: slides.id, lectureId: slides.lectureId, title: slides.title, script: slides.script })
    .from(slides)
    .where(and(inArray(slides.lectureId, [...lectureIds]), isShownSlide, holdAll(terms)))
    .orderBy(asc(slides.position))
  const found = new Map<string, FoundSlide[]>()
  for (const { slideId, lectureId, title, script } of rows) {
    const own = found.get(lectureId) ?? []
    if (own.length < MOST_FOUND) found.set(lectureId, [...own, { slideId, title, excerpt: excerpt(script, terms) }])
  }
  return found
}
