/**
 * Which of the shipped families stands for the one a deck names: its twin with letters of the same widths where there is one, else one of
 * its class.
 */

/** `plain`, `reading` and `mono` are the product's own; the others stand for those that decks are written in. */
export type Face = 'plain' | 'reading' | 'mono' | 'carlito' | 'caladea' | 'arimo' | 'tinos' | 'cousine'

/** Families whose letters are as wide as those of another. @see fontconfig, conf.d/30-metric-aliases.conf */
const TWINS: Record<string, Face> = {
  calibri: 'carlito',
  carlito: 'carlito',
  cambria: 'caladea',
  caladea: 'caladea',
  arial: 'arimo',
  arimo: 'arimo',
  helvetica: 'arimo',
  'liberation sans': 'arimo',
  'times new roman': 'tinos',
  times: 'tinos',
  tinos: 'tinos',
  'liberation serif': 'tinos',
  'courier new': 'cousine',
  courier: 'cousine',
  cousine: 'cousine',
  'liberation mono': 'cousine',
}

const CLASSES = { serif: 'tinos', sans: 'arimo', mono: 'cousine' } as const
type Class = keyof typeof CLASSES

/** Classes of families that are often named without a word of what they are. Common knowledge, no published source. */
const KNOWN: Record<Class, string[]> = {
  serif: [
    ...['serif', 'roman', 'georgia', 'garamond', 'eb garamond', 'palatino', 'palatino linotype', 'book antiqua', 'bookman'],
    ...['bookman old style', 'century', 'century schoolbook', 'constantia', 'baskerville', 'didot', 'bodoni mt', 'rockwell'],
    ...['merriweather', 'lora', 'playfair display', 'libre baskerville', 'crimson text', 'literata', 'cambria math'],
  ],
  sans: ['sans', 'sans-serif', 'verdana', 'tahoma', 'trebuchet ms', 'candara', 'corbel'],
  mono: ['monospace', 'consolas', 'lucida console', 'menlo', 'monaco', 'inconsolata', 'andale mono'],
}
const CLASS_OF = new Map(Object.entries(KNOWN).flatMap(([kind, names]) => names.map((name) => [name, kind as Class] as const)))

/** @see PANOSE 1.0 (ISO/IEC 14496-22, OS/2 table): 2 is Latin text; its serif style 2 to 10 has serifs; a proportion of 9 is one width for all */
function byPanose(panose: string | undefined): Class | null {
  const bytes = /^[\da-f]{20}$/i.test(panose ?? '') ? panose!.match(/../g)!.map((b) => Number.parseInt(b, 16)) : []
  const [family, serif = 0, , proportion] = bytes
  if (family !== 2) return null
  if (proportion === 9) return 'mono'
  return serif >= 11 ? 'sans' : serif >= 2 ? 'serif' : null
}

/** @see ECMA-376, part 1, §21.1.2.3.7: the upper four bits tell the family (1 roman, 2 swiss, 3 modern), 1 in the lower a fixed pitch */
function byPitch(pitchFamily: string | undefined): Class | null {
  const value = Number(pitchFamily ?? 0)
  const family = value >> 4
  if (family === 3 && (value & 3) === 1) return 'mono'
  return family === 1 ? 'serif' : family === 2 ? 'sans' : null
}

/** A last word that says what a family is, as in "Noto Serif". */
const byLastWord = (name: string): Class | null =>
  /(^| )sans.serif$/.test(name) ? 'sans' : / (serif|slab)$/.test(name) ? 'serif' : / mono$/.test(name) ? 'mono' : null

/** @param name as the deck has it, '' for none */
export function faceOf(name: string, hints: { panose?: string | undefined; pitchFamily?: string | undefined } = {}): Face {
  // writers name weights as families of their own
  const bare = name
    .trim()
    .toLowerCase()
    .replace(/^['"]|['"]$/g, '')
    .replace(/ (light|semilight|thin|medium|semibold|bold|black|condensed|narrow)$/, '')
  const twin = TWINS[bare]
  if (twin) return twin
  const kind =
    CLASS_OF.get(bare) ?? byLastWord(bare) ?? byPanose(hints.panose) ?? byPitch(hints.pitchFamily) ?? ('sans' satisfies Class)
  return CLASSES[kind]
}
