/**
 * Letters for scripts that the reader's own device has none for: fetched when such a text stands on the page, and only where it would be seen as
 * boxes. Most devices need nothing of it; the packages are those with which the server draws slides.
 */

interface Script {
  /** What it is written in; two different signs of it are `pair`. */
  pattern: RegExp
  pair: readonly [string, string]
  family: string
  load: () => Promise<unknown>
}

/** @see Unicode Standard Annex #24, "Unicode Script Property" */
const SCRIPTS: readonly Script[] = [
  ['Hebrew', 'אש', 'Hebrew', () => import('@fontsource-variable/noto-sans-hebrew/index.css')],
  ['Devanagari', 'कग', 'Devanagari', () => import('@fontsource-variable/noto-sans-devanagari/index.css')],
  ['Bengali', 'কগ', 'Bengali', () => import('@fontsource-variable/noto-sans-bengali/index.css')],
  ['Tamil', 'கச', 'Tamil', () => import('@fontsource-variable/noto-sans-tamil/index.css')],
  ['Thai', 'กด', 'Thai', () => import('@fontsource-variable/noto-sans-thai/index.css')],
  ['Armenian', 'ԱԲ', 'Armenian', () => import('@fontsource-variable/noto-sans-armenian/index.css')],
  ['Georgian', 'აბ', 'Georgian', () => import('@fontsource-variable/noto-sans-georgian/index.css')],
  ['Gujarati', 'કગ', 'Gujarati', () => import('@fontsource-variable/noto-sans-gujarati/index.css')],
  ['Gurmukhi', 'ਕਗ', 'Gurmukhi', () => import('@fontsource-variable/noto-sans-gurmukhi/index.css')],
  ['Kannada', 'ಕಗ', 'Kannada', () => import('@fontsource-variable/noto-sans-kannada/index.css')],
  ['Malayalam', 'കഗ', 'Malayalam', () => import('@fontsource-variable/noto-sans-malayalam/index.css')],
  ['Sinhala', 'කග', 'Sinhala', () => import('@fontsource-variable/noto-sans-sinhala/index.css')],
  ['Telugu', 'కగ', 'Telugu', () => import('@fontsource-variable/noto-sans-telugu/index.css')],
  ['Khmer', 'កគ', 'Khmer', () => import('@fontsource-variable/noto-sans-khmer/index.css')],
  ['Lao', 'ກດ', 'Lao', () => import('@fontsource-variable/noto-sans-lao/index.css')],
  ['Myanmar', 'ကဂ', 'Myanmar', () => import('@fontsource-variable/noto-sans-myanmar/index.css')],
  ['Ethiopic', 'ሀለ', 'Ethiopic', () => import('@fontsource-variable/noto-sans-ethiopic/index.css')],
  ['Hangul', '가나', 'KR', () => import('@fontsource-variable/noto-sans-kr/index.css')],
  ['Hiragana', 'あい', 'JP', () => import('@fontsource-variable/noto-sans-jp/index.css')],
  ['Katakana', 'アイ', 'JP', () => import('@fontsource-variable/noto-sans-jp/index.css')],
].map(([script, pair, family, load]) => ({
  pattern: new RegExp(`\\p{Script=${script}}`, 'u'),
  pair: [...(pair as string)] as [string, string],
  family: `Noto Sans ${family} Variable`,
  load: load as Script['load'],
}))

const HAN = /\p{Script=Han}/u
/** Signs of Han stand in several languages, which write some of them otherwise. */
function han(text: string): Script {
  const [family, load] = /\p{Script=Hiragana}|\p{Script=Katakana}/u.test(text)
    ? ['JP', () => import('@fontsource-variable/noto-sans-jp/index.css')]
    : /\p{Script=Hangul}/u.test(text)
      ? ['KR', () => import('@fontsource-variable/noto-sans-kr/index.css')]
      : document.querySelector(':lang(zh-Hant), :lang(zh-TW), :lang(zh-HK)')
        ? ['TC', () => import('@fontsource-variable/noto-sans-tc/index.css')]
        : ['SC', () => import('@fontsource-variable/noto-sans-sc/index.css')]
  return { pattern: HAN, pair: ['日', '月'], family: `Noto Sans ${family} Variable`, load: load as Script['load'] }
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

const WAIT_MS = 300
/** Latin, Greek, Cyrillic and Arabic letters ship with the page. */
const FURTHER = /[\u0530-\u05FF\u0700-\u1DFF\u2E80-\uFAFF\u{20000}-\u{3FFFF}]/u

/** Looks at what stands on the page now and from now on. */
export function fetchMissingLetters() {
  const seen = new Set<string>()
  const families = new Set<string>()
  const look = async () => {
    const text = document.body.textContent ?? ''
    if (!FURTHER.test(text)) return
    for (const script of [...SCRIPTS, han(text)]) {
      if (seen.has(script.pattern.source) || !script.pattern.test(text)) continue
      seen.add(script.pattern.source)
      if (!isMissing(script.pair)) continue
      // without a line the boxes stay: nothing else depends on it
      await script.load().catch(() => {})
      families.add(script.family)
      const names = [...families].map((family) => `"${family}"`).join(', ')
      document.documentElement.style.setProperty('--font-scripts', names)
    }
  }
  let isWaiting = false
  const soon = () => {
    if (isWaiting) return
    isWaiting = true
    setTimeout(() => {
      isWaiting = false
      void look()
    }, WAIT_MS)
  }
  new MutationObserver(soon).observe(document.body, { subtree: true, childList: true, characterData: true })
  soon()
}
