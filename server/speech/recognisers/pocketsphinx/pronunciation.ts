/** How English words are said, in the sounds of the CMU pronouncing dictionary. */

/**
 * Signs of the International Phonetic Alphabet as the synthesiser writes them, and sounds of the dictionary (its documentation lists the
 * 39 of them with an example each); which is which is from memory.
 */
const SOUNDS: Record<string, string> = {
  aɪə: 'AY AH',
  aɪɚ: 'AY ER',
  tʃ: 'CH',
  dʒ: 'JH',
  eɪ: 'EY',
  aɪ: 'AY',
  aʊ: 'AW',
  oʊ: 'OW',
  ɔɪ: 'OY',
  iə: 'IY AH',
  əl: 'AH L',
  ɜː: 'ER',
  ɚ: 'ER',
  iː: 'IY',
  i: 'IY',
  ɪ: 'IH',
  ᵻ: 'IH',
  ɛ: 'EH',
  e: 'EH',
  æ: 'AE',
  a: 'AA',
  ʌ: 'AH',
  ə: 'AH',
  ɐ: 'AH',
  ɑː: 'AA',
  ɑ: 'AA',
  ɔː: 'AO',
  ɔ: 'AO',
  oː: 'AO',
  o: 'OW',
  ʊ: 'UH',
  uː: 'UW',
  u: 'UW',
  p: 'P',
  b: 'B',
  t: 'T',
  d: 'D',
  k: 'K',
  ɡ: 'G',
  g: 'G',
  f: 'F',
  v: 'V',
  θ: 'TH',
  ð: 'DH',
  s: 'S',
  z: 'Z',
  ʃ: 'SH',
  ʒ: 'ZH',
  h: 'HH',
  x: 'K',
  m: 'M',
  n: 'N',
  ŋ: 'NG',
  l: 'L',
  ɫ: 'L',
  ɹ: 'R',
  r: 'R',
  j: 'Y',
  w: 'W',
  ɾ: 'T',
  ʔ: 'T',
}
const LONGEST = Math.max(...Object.keys(SOUNDS).map((sign) => sign.length))

/** @param ipa one word, with or without stress @returns sounds with a space between; null when it holds a sign that is not known */
export function cmuSounds(ipa: string): string | null {
  const signs = ipa.replace(/ˈ|ˌ|_|-|\u0329|\u0361/gu, '')
  const sounds: string[] = []
  for (let at = 0; at < signs.length; ) {
    let length = Math.min(LONGEST, signs.length - at)
    while (length > 0 && !SOUNDS[signs.slice(at, at + length)]) length--
    if (length === 0) return null
    sounds.push(SOUNDS[signs.slice(at, at + length)]!)
    at += length
  }
  return sounds.length > 0 ? sounds.join(' ') : null
}
