/**
 * The file of the voice model: `LVM1`, the length of what follows as 32 bits (little-endian), JSON that says what its layers are, then the
 * 8-bit weights of all layers, row by row, one layer after another.
 */

export interface VoiceLayer {
  inputs: number
  outputs: number
  /** How far its outer taps stand from the middle one, steps; 0 where it looks at one step alone. */
  apart: number
  /** What a weight of 1 is worth, for each output. */
  scales: readonly number[]
  biases: readonly number[]
  /** For each output all inputs of the first tap, then those of the next. */
  weights: Int8Array
}

const MAGIC = 'LVM1'
const HEADER = MAGIC.length + 4
/** The header is ASCII; the core knows no encoder. */
const bytesOfText = (text: string) => Uint8Array.from(text, (character) => character.charCodeAt(0))
const textOfBytes = (bytes: Uint8Array) => Array.from(bytes, (byte) => String.fromCharCode(byte)).join('')
const weightsOf = ({ inputs, outputs, apart }: Pick<VoiceLayer, 'inputs' | 'outputs' | 'apart'>) =>
  outputs * inputs * (apart > 0 ? 3 : 1)

/** @returns the bytes of a file that `readVoiceModel` reads */
export function voiceModelFile(layers: readonly VoiceLayer[]): Uint8Array<ArrayBuffer> {
  const said = bytesOfText(JSON.stringify(layers.map(({ weights: _, ...layer }) => layer)))
  const bytes = new Uint8Array(HEADER + said.length + layers.reduce((sum, { weights }) => sum + weights.length, 0))
  bytes.set(bytesOfText(MAGIC))
  new DataView(bytes.buffer).setUint32(MAGIC.length, said.length, true)
  bytes.set(said, HEADER)
  let at = HEADER + said.length
  for (const { weights } of layers) {
    bytes.set(new Uint8Array(weights.buffer, weights.byteOffset, weights.length), at)
    at += weights.length
  }
  return bytes
}

/**
 * @param bytes of a whole file
 * @throws Error when it is no voice model, or not whole
 */
export function readVoiceModel(bytes: Uint8Array): VoiceLayer[] {
  if (textOfBytes(bytes.subarray(0, MAGIC.length)) !== MAGIC) throw new Error('This file is no voice model.')
  const length = new DataView(bytes.buffer, bytes.byteOffset).getUint32(MAGIC.length, true)
  const said = JSON.parse(textOfBytes(bytes.subarray(HEADER, HEADER + length))) as Omit<VoiceLayer, 'weights'>[]
  let at = HEADER + length
  const layers = said.map((layer) => {
    const weights = Int8Array.from(bytes.subarray(at, at + weightsOf(layer)), (byte) => (byte << 24) >> 24)
    if (weights.length < weightsOf(layer)) throw new Error('The file of the voice model ends too early.')
    at += weights.length
    return { ...layer, weights }
  })
  if (at !== bytes.length) throw new Error('The file of the voice model goes on after its last layer.')
  return layers
}
