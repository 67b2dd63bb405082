/** RIFF WAVE, 16-bit PCM, mono: the form in which sound crosses between our own parts. */

/**
 * @param samples 16-bit mono
 * @param sampleRate in Hz
 * @returns the bytes of a whole WAV file
 * @see IBM/Microsoft, Multimedia Programming Interface and Data Specifications 1.0 (1991), WAVE form
 */
export function writeWav(samples: Int16Array, sampleRate: number): Uint8Array<ArrayBuffer> {
  const bytes = new Uint8Array(44 + samples.length * 2)
  bytes.set(wavHeader(samples.length, sampleRate))
  const view = new DataView(bytes.buffer)
  for (let i = 0; i < samples.length; i++) view.setInt16(44 + i * 2, samples[i]!, true)
  return bytes
}

/** What stands before the samples. @param length how many there are */
export function wavHeader(length: number, sampleRate: number): Uint8Array<ArrayBuffer> {
  const bytes = new Uint8Array(44)
  const view = new DataView(bytes.buffer)
  const text = (at: number, chars: string) => {
    for (let i = 0; i < chars.length; i++) bytes[at + i] = chars.charCodeAt(i)
  }
  text(0, 'RIFF')
  view.setUint32(4, 36 + length * 2, true)
  text(8, 'WAVEfmt ')
  view.setUint32(16, 16, true)
  view.setUint16(20, 1, true)
  view.setUint16(22, 1, true)
  view.setUint32(24, sampleRate, true)
  view.setUint32(28, sampleRate * 2, true)
  view.setUint16(32, 2, true)
  view.setUint16(34, 16, true)
  text(36, 'data')
  view.setUint32(40, length * 2, true)
  return bytes
}
