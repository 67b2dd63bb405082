/**
 * Numbers the frames of an H.264 stream anew, so that one encoded frame can be shown many times over.
 *
 * Frames that others refer to are numbered in a row from the last key frame on; a decoder that finds a gap believes that something
 * was lost. The number stands in each slice's header as so many plain bits, and nothing behind it depends on it.
 *
 * @see ITU-T H.264, §7.3.2.1.1 (sequence parameter set), §7.3.3 (slice header), §7.4.1.1 (emulation prevention), §7.4.3 (frame_num);
 *   ISO/IEC 14496-15, §5.3.3.1 (AVCDecoderConfigurationRecord)
 */

const NON_IDR_SLICE = 1
const IDR_SLICE = 5
/** Profiles whose parameter sets say more about colour, before the number's length. */
const HIGH_PROFILES = new Set([100, 110, 122, 244, 44, 83, 86, 118, 128])

class Bits {
  at = 0
  readonly bytes: Uint8Array
  constructor(bytes: Uint8Array) {
    this.bytes = bytes
  }
  bit(): number {
    const byte = this.bytes[this.at >> 3]
    if (byte === undefined) throw new Error('The slice header ends too early')
    return (byte >> (7 - (this.at++ & 7))) & 1
  }
  /** Exp-Golomb, §9.1. */
  unsigned(): number {
    let zeros = 0
    while (this.bit() === 0) zeros++
    let value = 1
    for (let i = 0; i < zeros; i++) value = (value << 1) | this.bit()
    return value - 1
  }
  write(value: number, count: number) {
    for (let i = count - 1; i >= 0; i--, this.at++) {
      const mask = 1 << (7 - (this.at & 7))
      if ((value >> i) & 1) this.bytes[this.at >> 3]! |= mask
      else this.bytes[this.at >> 3]! &= ~mask
    }
  }
}

/** Takes out the bytes that keep a unit from looking like a start code. */
function unescaped(unit: Uint8Array): Uint8Array {
  const out = new Uint8Array(unit.length)
  let [length, zeros] = [0, 0]
  for (const byte of unit) {
    if (zeros >= 2 && byte === 3) {
      zeros = 0
      continue
    }
    out[length++] = byte
    zeros = byte === 0 ? zeros + 1 : 0
  }
  return out.subarray(0, length)
}

function escaped(unit: Uint8Array): Uint8Array {
  const out = new Uint8Array(Math.ceil(unit.length * 1.5) + 1)
  let [length, zeros] = [0, 0]
  for (const byte of unit) {
    if (zeros >= 2 && byte <= 3) {
      out[length++] = 3
      zeros = 0
    }
    out[length++] = byte
    zeros = byte === 0 ? zeros + 1 : 0
  }
  return out.subarray(0, length)
}

/**
 * @param record AVCDecoderConfigurationRecord of the stream
 * @returns how many bits the number of a frame has, 4 to 16
 * @throws Error for colour planes or scaling lists of its own, which our encoder does not write
 */
export function frameNumberBits(record: Uint8Array): number {
  const length = (record[6]! << 8) | record[7]!
  const set = unescaped(record.subarray(8, 8 + length))
  const bits = new Bits(set)
  bits.at = 8 + 24 // the unit's own byte; profile, constraints, level
  bits.unsigned() // seq_parameter_set_id
  if (HIGH_PROFILES.has(set[1]!)) {
    if (bits.unsigned() === 3) throw new Error('A stream with separate colour planes cannot be numbered')
    bits.unsigned()
    bits.unsigned()
    bits.bit()
    if (bits.bit()) throw new Error('A stream with scaling lists cannot be numbered')
  }
  return bits.unsigned() + 4
}

/** @returns whether a packet begins anew: its number is 0 */
export function isKeyPacket(packet: Uint8Array): boolean {
  return units(packet).some((unit) => (unit[0]! & 31) === IDR_SLICE)
}

/** Units of a packet whose lengths stand before them in four bytes. */
function units(packet: Uint8Array): Uint8Array[] {
  const found: Uint8Array[] = []
  const view = new DataView(packet.buffer, packet.byteOffset, packet.byteLength)
  for (let at = 0; at + 4 <= packet.length; ) {
    const length = view.getUint32(at)
    found.push(packet.subarray(at + 4, at + 4 + length))
    at += 4 + length
  }
  return found
}

/**
 * @param packet one frame as MP4 has it, lengths of units in four bytes
 * @param bits of the number, from `frameNumberBits`
 * @param number of the frame, counted from the last key frame; it is taken modulo its range
 * @returns the frame with that number; the packet itself when it begins anew
 */
export function withFrameNumber(packet: Uint8Array, bits: number, number: number): Uint8Array {
  const renumbered = units(packet).map((unit) => {
    if ((unit[0]! & 31) !== NON_IDR_SLICE) return unit
    const plain = unescaped(unit)
    const header = new Bits(plain)
    header.at = 8
    header.unsigned() // first_mb_in_slice
    header.unsigned() // slice_type
    header.unsigned() // pic_parameter_set_id
    header.write(number & ((1 << bits) - 1), bits)
    return escaped(plain)
  })
  const out = new Uint8Array(renumbered.reduce((sum, unit) => sum + 4 + unit.length, 0))
  const view = new DataView(out.buffer)
  let at = 0
  for (const unit of renumbered) {
    view.setUint32(at, unit.length)
    out.set(unit, at + 4)
    at += 4 + unit.length
  }
  return out
}
