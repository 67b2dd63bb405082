/**
 * Letters for scripts that the reader's own device has none for: fetched when such a text stands on the page, and only where it would be seen as
 * boxes. Most devices need nothing of it; the packages are those with which the server draws slides.
 */
import armenian from '@fontsource-variable/noto-sans-armenian/index.css?url'
import bengali from '@fontsource-variable/noto-sans-bengali/index.css?url'
import devanagari from '@fontsource-variable/noto-sans-devanagari/index.css?url'
import ethiopic from '@fontsource-variable/noto-sans-ethiopic/index.css?url'
import georgian from '@fontsource-variable/noto-sans-georgian/index.css?url'
import gujarati from '@fontsource-variable/noto-sans-gujarati/index.css?url'
import gurmukhi from '@fontsource-variable/noto-sans-gurmukhi/index.css?url'
import hebrew from '@fontsource-variable/noto-sans-hebrew/index.css?url'
import jp from '@fontsource-variable/noto-sans-jp/index.css?url'
import kannada from '@fontsource-variable/noto-sans-kannada/index.css?url'
import khmer from '@fontsource-variable/noto-sans-khmer/index.css?url'
import kr from '@fontsource-variable/noto-sans-kr/index.css?url'
import lao from '@fontsource-variable/noto-sans-lao/index.css?url'
import malayalam from '@fontsource-variable/noto-sans-malayalam/index.css?url'
import myanmar from '@fontsource-variable/noto-sans-myanmar/index.css?url'
import sc from '@fontsource-variable/noto-sans-sc/index.css?url'
import sinhala from '@fontsource-variable/noto-sans-sinhala/index.css?url'
import tamil from '@fontsource-variable/noto-sans-tamil/index.css?url'
import tc from '@fontsource-variable/noto-sans-tc/index.css?url'
import telugu from '@fontsource-variable/noto-sans-telugu/index.css?url'
import thai from '@fontsource-variable/noto-sans-thai/index.css?url'

interface Script {
  pattern: RegExp
  /** Two different signs of it. */
  pair: readonly [string, string]
  /** The last word of its family's name. */
  family: string
  sheet: string
}

const script = (name: string, pair: string, sheet: string, family = name): Script => ({
  pattern: new RegExp(`\\p{Script=${name}}`, 'u'),
  pair: [...pair] as [string, string],
  family,
  sheet,
})

/** @see Unicode Standard Annex #24, "Unicode Script Property" */
const SCRIPTS: readonly Script[] = [
  script('Hebrew', 'אש', hebrew),
  script('Devanagari', 'कग', devanagari),
  script('Bengali', 'কগ', bengali),
  script('Tamil', 'கச', tamil),
  script('Thai', 'กด', thai),
  script('Armenian', 'ԱԲ', armenian),
  script('Georgian', 'აბ', georgian),
  script('Gujarati', 'કગ', gujarati),
  script('Gurmukhi', 'ਕਗ', gurmukhi),
  script('Kannada', 'ಕಗ', kannada),
  script('Malayalam', 'കഗ', malayalam),
  script('Sinhala', 'කග', sinhala),
  script('Telugu', 'కగ', telugu),
  script('Khmer', 'កគ', khmer),
  script('Lao', 'ກດ', lao),
  script('Myanmar', 'ကဂ', myanmar),
  script('Ethiopic', 'ሀለ', ethiopic),
  script('Hangul', '가나', kr, 'KR'),
  script('Hiragana', 'あい', jp, 'JP'),
  script('Katakana', 'アイ', jp, 'JP'),
]

/** Signs of Han stand in several languages, which write some of them otherwise. */
function han(text: string): Script {
  if (/\p{Script=Hiragana}|\p{Script=Katakana}/u.test(text)) return script('Han', '日月', jp, 'JP')
  if (/\p{Script=Hangul}/u.test(text)) return script('Han', '日月', kr, 'KR')
  return document.querySelector(':lang(zh-Hant), :lang(zh-TW), :lang(zh-HK)')
    ? script('Han', '日月', tc, 'TC')
    : script('Han', '日月', sc, 'SC')
}

const SIZE = 24
let pen: CanvasRenderingContext2D | null = null
/** The device draws the same for two signs: a box for what it does not have. */
function isMissing([one, other]: Script['pair']): boolean {
  pen ??= Object.assign(document.createElement('canvas'), { width: SIZE, height: SIZE }).getContext('2d', {
    willReadFrequently: true,
  })
  if (!pen) return false
  const drawn = (sign: string) => {
    pen!.clearRect(0, 0, SIZE, SIZE)
    pen!.font = `${SIZE - 4}px sans-serif`
    pen!.fillText(sign, 0, SIZE - 4)
    return pen!.getImageData(0, 0, SIZE, SIZE).data.toString()
  }
  return drawn(one) === drawn(other)
}

const seen = new Set<string>()
const families = new Set<string>()

/** @param text all that stands on the page */
export function fetchMissingLetters(text: string) {
  for (const one of [...SCRIPTS, han(text)]) {
    if (seen.has(one.pattern.source) || !one.pattern.test(text)) continue
    seen.add(one.pattern.source)
    if (!isMissing(one.pair)) continue
    // without a line the boxes stay: nothing else depends on it
    document.head.append(Object.assign(document.createElement('link'), { rel: 'stylesheet', href: one.sheet }))
    families.add(`"Noto Sans ${one.family} Variable"`)
    document.documentElement.style.setProperty('--font-scripts', [...families].join(', '))
  }
}
