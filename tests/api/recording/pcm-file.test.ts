/** Sound in a file is read as the same sound in memory is. */
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, expect, test } from 'vitest'
import { fromInt16, toInt16 } from '#core/audio/signal/pcm.ts'
import { floatsOf, type Pcm, partOf, pieceOf, piecesOf, spillPcm } from '#server/media/pcm.ts'
import { firstDifference, noise, seconds } from '#tests/made/sound.ts'

const folder = mkdtempSync(join(tmpdir(), 'lectern-spill-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))
// longer than a chunk
const sound = toInt16(noise(0.1, seconds(31), 3))
const spilled = spillPcm(join(folder, 'sound'), floatsOf(sound))
const whole = (pcm: Pcm) => [...piecesOf(pcm)].flatMap((piece) => [...piece])

test('a part is the same samples, and so is a part of a part', () => {
  const part = { start: 1234, end: seconds(30.5) }
  const inner = { start: 777, end: 4777 }
  for (const pcm of [sound, spilled]) {
    const cut = partOf(pcm, part)
    expect(cut.length).toBe(part.end - part.start)
    expect(firstDifference(Int16Array.from(whole(cut)), sound.slice(part.start, part.end))).toBe(-1)
    const within = partOf(cut, inner)
    const wanted = sound.slice(part.start + inner.start, part.start + inner.end)
    expect(firstDifference(pieceOf(within, 0, within.length), wanted)).toBe(-1)
    expect(firstDifference(floatsOf(within).subarray(10, 20), fromInt16(wanted.slice(10, 20)))).toBe(-1)
  }
})

test('nothing is read beyond its end', () => {
  for (const pcm of [sound, spilled]) {
    const part = partOf(pcm, { start: 100, end: 200 })
    expect(pieceOf(part, 90, 300)).toHaveLength(10)
  }
})
