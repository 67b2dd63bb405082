/**
 * The word weights of a pocketsphinx model, changed for a text: words of the text become likelier, and those the model does not know are
 * added. Only the weights of single words are changed; which words follow each other stays as the model knows it.
 *
 * The file is sphinxbase's binary trie (lm_trie.c, lm_trie_quant.c of sphinxbase 5prealpha), little-endian: a signature, the order and the
 * numbers of n-grams, tables of the quantised weights, one entry for each single word (weight, back-off weight, first of its pairs) and one
 * more that ends the last, pairs and triples packed in bits, and the words.
 */

const SIGNATURE = 'Trie Language Model'
const ORDER = 3
const TABLE_BYTES = 4 * 65_536
/** Weight and back-off weight of pairs, weight of triples. */
const TABLES = 3
const ENTRY_BYTES = 12
/** Weights are logarithms to this base. */
const LOG_BASE = Math.log(1.0001)
const QUANT_BITS = 16

/** Bits that hold numbers up to this one. */
const bitsFor = (most: number) => Math.ceil(Math.log2(most + 1))
const packedBytes = (entries: number, bits: number) => Math.floor(((1 + entries) * bits + 7) / 8) + 8

export interface Wanted {
  word: string
  /** Of all words that are said, the part that is this one, as the text has it. */
  share: number
}

/**
 * @param model a file as `en-us.lm.bin` is
 * @param wanted words in small letters, each once
 * @param trust 0 to 1: how much the text counts beside the model
 * @returns the changed file, and which words were added to it
 * @throws Error when the file is none of this form
 */
export function withWordWeights(model: Buffer, wanted: readonly Wanted[], trust: number): { changed: Buffer; added: string[] } {
  const head = SIGNATURE.length
  if (model.toString('latin1', 0, head) !== SIGNATURE || model[head] !== ORDER)
    throw new Error('This is no model of word weights.')
  const [words, pairs, triples] = [0, 1, 2].map((i) => model.readUInt32LE(head + 1 + 4 * i)) as [number, number, number]
  const first = head + 1 + 4 * ORDER + 4 + TABLES * TABLE_BYTES
  const end = first + words * ENTRY_BYTES
  const wordBits = bitsFor(words)
  const packed = packedBytes(pairs, wordBits + 2 * QUANT_BITS + bitsFor(triples)) + packedBytes(triples, wordBits + QUANT_BITS)
  const texts = end + ENTRY_BYTES + packed
  if (model.length !== texts + 4 + model.readUInt32LE(texts)) throw new Error('This model of word weights is not whole.')
  const known = new Map(
    model
      .toString('utf8', texts + 4)
      .split('\0')
      .slice(0, words)
      .map((word, i) => [word, i]),
  )
  const head0 = Buffer.from(model.subarray(0, end))
  const entries: Buffer[] = []
  const added: string[] = []
  // where the pairs of the last word end, which is not always their number: a word without pairs begins and ends there
  const afterLast = model.readUInt32LE(end + 8)
  /** As many as the width of word numbers allows: it must stay what it is. */
  const most = 2 ** wordBits - 1 - words
  for (const { word, share } of wanted) {
    const i = known.get(word)
    if (i === undefined) {
      if (added.length >= most) continue
      const entry = Buffer.alloc(ENTRY_BYTES)
      entry.writeFloatLE(Math.log(trust * share) / LOG_BASE, 0)
      entry.writeUInt32LE(afterLast, 8)
      entries.push(entry)
      added.push(word)
      continue
    }
    const at = first + i * ENTRY_BYTES
    const before = Math.exp(head0.readFloatLE(at) * LOG_BASE)
    head0.writeFloatLE(Math.log((1 - trust) * before + trust * share) / LOG_BASE, at)
  }
  head0.writeUInt32LE(words + added.length, head + 1)
  const names = Buffer.concat([model.subarray(texts + 4), Buffer.from(added.map((word) => `${word}\0`).join(''))])
  const size = Buffer.alloc(4)
  size.writeUInt32LE(names.length)
  return { changed: Buffer.concat([head0, ...entries, model.subarray(end, texts), size, names]), added }
}
