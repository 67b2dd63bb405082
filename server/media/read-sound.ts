/** Any sound file, judged by its content, as 48 kHz mono samples. */
import { stat } from 'node:fs/promises'
import { basename } from 'node:path'
import { monoOf } from '#core/audio/mono.ts'
import { Sentence } from '#server/sentence.ts'
import type { MediaTool } from './tool.ts'

// demuxers of self-contained sound and video files; playlists and the like could name other files
const FORMATS = 'wav,w64,flac,mp3,aac,mov,mp4,m4a,ogg,matroska,webm,asf,aiff,au,caf,avi,mpegts,amr,ac3'
const LONGEST_S = 3 * 3600

/**
 * @param path of a sound or video file
 * @returns samples, full scale ±1, and how many channels carried no sound
 * @throws Sentence when it is missing, empty, no sound, or longer than three hours
 */
export async function readSound(tool: MediaTool, path: string): Promise<{ samples: Float32Array; deadChannels: number }> {
  const name = basename(path)
  const found = await stat(path).catch(() => null)
  if (!found?.isFile()) throw new Sentence(`There is no file “${name}”. Check its name and folder.`, 404)
  if (found.size === 0) throw new Sentence(`“${name}” is empty (0 bytes). Save or download it again.`, 422)
  const input = ['-protocol_whitelist', 'file', '-format_whitelist', FORMATS, '-i', path, '-map', '0:a:0', '-vn']
  // a WAV stream and not bare samples: its header tells how many channels there are
  const output = ['-t', String(LONGEST_S + 1), '-c:a', 'pcm_f32le', '-ar', '48000', '-f', 'wav', 'pipe:1']
  const bytes = await tool.run([...input, ...output]).catch((error) => {
    if (error instanceof Sentence) throw error
    throw new Sentence(
      /matches no streams/.test(String(error))
        ? `“${name}” holds no sound. Choose a file with sound in it.`
        : `“${name}” cannot be read as sound, whatever its name says; it may be damaged. Export it again, as WAV or MP3 for example.`,
      415,
    )
  })
  const channels = channelsOf(bytes)
  const length = channels[0]?.length ?? 0
  if (length > LONGEST_S * 48_000) throw new Sentence(`“${name}” is longer than three hours. Divide it first.`, 413)
  if (length === 0) throw new Sentence(`“${name}” holds no sound. Choose a file with sound in it.`, 415)
  const { samples, dead } = monoOf(channels)
  return { samples, deadChannels: dead }
}

/** Channels of a WAV stream of 32-bit floats, whose length field a pipe leaves open. */
function channelsOf(wav: Buffer): Float32Array[] {
  const count = wav.readUInt16LE(22)
  const start = wav.indexOf('data', 12, 'latin1') + 8
  const length = Math.floor((wav.length - start) / (4 * count))
  const all = new Float32Array(wav.buffer.slice(wav.byteOffset + start, wav.byteOffset + start + length * count * 4))
  if (count === 1) return [all]
  return Array.from({ length: count }, (_, c) => {
    const channel = new Float32Array(length)
    for (let i = 0; i < length; i++) channel[i] = all[i * count + c]!
    return channel
  })
}
