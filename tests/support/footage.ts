/** Footage as a browser sends it, made of a film that says which of its frames is which. */
import { randomUUID } from 'node:crypto'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { crc32 } from '#core/audio/signal/crc32.ts'
import type { FootageKind } from '#core/model/moving/footage.ts'
import { type FootageFrame, packPiece } from '#core/recording/footage-pieces.ts'
import { makeFilm } from '#tests/made/film.ts'

const IVF_HEAD = 32
const IVF_FRAME = 12

/** Frames of a film as a recorder encodes them (VP8), 30 a second, the first at a sample of its take. */
export function recordedFrames({
  frames,
  width,
  height,
  first,
}: {
  frames: number
  width: number
  height: number
  first: number
}) {
  const folder = mkdtempSync(join(tmpdir(), 'lectern-footage-'))
  try {
    const path = join(folder, 'film.ivf')
    const codec = [
      '-c:v',
      'libvpx',
      '-deadline',
      'good',
      '-cpu-used',
      '5',
      '-b:v',
      '4M',
      '-drop-threshold',
      '0',
      '-auto-alt-ref',
      '0',
      '-g',
      '30',
      '-f',
      'ivf',
    ]
    makeFilm(path, { frames, rate: '30', width, height, codec })
    const bytes = readFileSync(path)
    const found: FootageFrame[] = []
    for (let at = IVF_HEAD; at < bytes.length; ) {
      const length = bytes.readUInt32LE(at)
      const data = bytes.subarray(at + IVF_FRAME, at + IVF_FRAME + length)
      // the lowest bit of a VP8 frame says whether it is a key frame: RFC 6386, section 9.1
      // an encoder may leave frames out: each has its number
      found.push({ at: first + bytes.readUInt32LE(at + 4) * 1600, isKey: (data[0]! & 1) === 0, data })
      at += IVF_FRAME + length
    }
    return found
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}

/** In pieces of a second. */
export function piecesOf(frames: readonly FootageFrame[]): Uint8Array<ArrayBuffer>[] {
  const pieces: Uint8Array<ArrayBuffer>[] = []
  for (let i = 0; i < frames.length; i += 30) {
    const own = frames.slice(i, i + 30)
    pieces.push(packPiece({ until: own.at(-1)!.at + 1600, frames: own }))
  }
  return pieces
}

interface Asks {
  json(method: string, path: string, body: unknown): Response | Promise<Response>
  ask(path: string, init: RequestInit): Response | Promise<Response>
}

export const sendPiece = (
  app: Pick<Asks, 'ask'>,
  takeId: string,
  footageId: string,
  number: number,
  piece: Uint8Array<ArrayBuffer>,
) =>
  app.ask(`/api/takes/${takeId}/footage/${footageId}/pieces/${number}`, {
    method: 'PUT',
    headers: { 'x-checksum': String(crc32(piece)) },
    body: piece,
  })

/** Sends a whole footage of a take that has begun. @returns its id */
export async function sendFootage(
  app: Asks,
  takeId: string,
  kind: FootageKind,
  size: { width: number; height: number },
  frames: readonly FootageFrame[],
): Promise<string> {
  const footageId = randomUUID()
  const begun = await app.json('PUT', `/api/takes/${takeId}/footage/${footageId}`, { kind, codec: 'vp8', ...size })
  if (!begun.ok) throw new Error(await begun.text())
  const pieces = piecesOf(frames)
  for (const [i, piece] of pieces.entries()) await sendPiece(app, takeId, footageId, i, piece)
  const sealed = await app.json('POST', `/api/takes/${takeId}/footage/${footageId}/seal`, { pieces: pieces.length })
  if (!sealed.ok) throw new Error(await sealed.text())
  return footageId
}
