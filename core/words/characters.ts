/** Characters as they are named to people: by themselves and by their number, for what cannot be drawn is not seen. */

const MOST_NAMED = 12

/** @param characters each once; of many the first are named */
export function charactersNamed(characters: readonly string[]): string {
  const named = characters.slice(0, MOST_NAMED).map((character) => {
    const code = `U+${character.codePointAt(0)!.toString(16).toUpperCase().padStart(4, '0')}`
    return /\p{Co}/u.test(character) ? code : `${character} (${code})`
  })
  return `${named.join(', ')}${characters.length > MOST_NAMED ? ', …' : ''}`
}
