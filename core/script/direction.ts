/** Which way a text runs. */

const LETTER = /\p{L}/u
const RIGHT_TO_LEFT =
  /[\p{Script=Arabic}\p{Script=Hebrew}\p{Script=Syriac}\p{Script=Thaana}\p{Script=Nko}\p{Script=Adlam}\p{Script=Mandaic}]/u

/** @returns whether its first letter is one that runs to the left @see Unicode Standard Annex 9, rules P2 and P3 */
export function isRightToLeft(text: string): boolean {
  const [first] = text.match(LETTER) ?? []
  return first !== undefined && RIGHT_TO_LEFT.test(first)
}
