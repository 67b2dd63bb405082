/** A film in the one form that browser and encoder read: H.264 with one rate of frames, and its sound beside it. */
import { open, rm, stat } from 'node:fs/promises'
import { greatestDivisor } from '#core/films/steady-rate.ts'
import type { ShownFilm } from '#core/model/moving/film.ts'
import { keptSize, LONGEST_FILM_S, tooLong } from '#core/model/moving/film.ts'
import { message } from '#core/words/say.ts'
import { isDiskFull, UserFacingError } from '#server/errors/user-facing-error.ts'
import type { Importer } from '#server/import/importer.ts'
import type { Ffmpeg } from '#server/media/ffmpeg.ts'
import { videoPackets } from '#server/media/video-packets.ts'
import type { FileStore } from '#server/storage/file-store.ts'
import { filmFormatOf } from './film-format.ts'
import { flashesOf, stripOf } from './look-at-film.ts'
import { cannotBeRead, type FilmFacts, filmInput, probeFilm } from './probe-film.ts'

/** Seconds between key frames, so that going somewhere is quick. */
const KEY_FRAME_S = 0.5
/** A long film of a large size, on a slow machine. */
const LONGEST_WORK_S = 6 * 3600
/** A second more than a film may be, so that one that is too long is found out. */
const LONGEST = LONGEST_FILM_S + 1
/** What a film may end before it should and still be whole: containers round. */
const SHORT_BY_S = 1

export interface FilmTools {
  media: Ffmpeg
  store: FileStore
  importer: Importer
  dataFolder: string
  /** Loudness of a sound in a file (stereo, 48 kHz, 16 bits); null for silence. */
  loudnessOf(path: string, length: number): Promise<number | null>
  /** Keeps the same sound as FLAC. @returns its name */
  keepSound(path: string): Promise<string>
}

const standsStill = (name: string) =>
  new UserFacingError(message('“{name}” holds one picture and nothing that moves. Add it as a picture instead.', { name }), 415)

// from high dynamic range to BT.709: the light made linear, its brightest parts bent, and back. The curve is one that the media tool
// offers for this; no published source here
const TONES = [
  'zscale=transfer=linear:npl=100,format=gbrpf32le,zscale=primaries=bt709',
  'tonemap=tonemap=hable:desat=0,zscale=transfer=bt709:matrix=bt709:range=tv',
]

function pictureFilter(facts: FilmFacts, { width, height }: { width: number; height: number }): string {
  const [count, per] = facts.rate
  const from = facts.isUnnamed709 ? ':in_color_matrix=bt709' : ''
  return [
    'yadif=deint=interlaced',
    ...(facts.isHdr ? TONES : []),
    `scale=${width}:${height}:flags=bicubic${from}:out_color_matrix=bt709:out_range=tv`,
    'setsar=1',
    ...(facts.beginsSeconds === undefined ? [] : [`setpts=PTS-(${facts.beginsSeconds.toFixed(6)})/TB`]),
    // from the first moment of picture or sound on, so that both go on together
    `fps=fps=${count}/${per}:start_time=0`,
    // its last picture stays for as long as its sound goes on
    ...(facts.soundAfterSeconds > 0 ? [`tpad=stop_mode=clone:stop_duration=${facts.soundAfterSeconds.toFixed(3)}`] : []),
    'format=yuv420p',
  ].join(',')
}

const pictureOut = ([count, per]: [number, number]) => [
  ...['-c:v', 'libx264', '-preset', 'veryfast', '-crf', '18', '-profile:v', 'high', '-bf', '0'],
  ...['-g', String(Math.max(1, Math.round((KEY_FRAME_S * count) / per))), '-threads', '2'],
  ...['-color_range', 'tv', '-colorspace', 'bt709', '-color_primaries', 'bt709', '-color_trc', 'bt709'],
]
const PLAIN = ['-map_metadata', '-1', '-map_chapters', '-1', '-fflags', '+bitexact', '-movflags', '+faststart', '-f', 'mp4']
const SOUND_FILTER = 'aresample=48000:async=1000:first_pts=0,aformat=channel_layouts=stereo'

export interface FilmSource {
  input: string[]
  stdin?: AsyncIterable<Uint8Array>
  facts: FilmFacts
  /** Nothing after it is kept. */
  longestSeconds: number
}

/** Pictures of an animation, each for as long as it says, at one rate. */
async function* framesOfAnimation(path: string, bytes: number, delays: readonly number[], rate: number) {
  const file = await open(path, 'r')
  try {
    const frame = Buffer.alloc(bytes)
    let [ends, given] = [0, 0]
    for (const [i, delay] of delays.entries()) {
      ends += delay / 1000
      await file.read(frame, 0, bytes, i * bytes)
      for (; given / rate < ends - 1e-6; given++) yield Buffer.from(frame)
    }
  } finally {
    await file.close()
  }
}

/** What changes its pictures at no even distance is shown at this one, which keeps most of them where they are. */
const USUAL_STEP_MS = 40
const LONGEST_STEP_MS = 1000

/** @param delays milliseconds of each picture @returns the least frames a second at which each begins where it should */
export function animationRate(delays: readonly number[]): [number, number] {
  const common = delays.reduce(greatestDivisor, 0)
  const parts = Math.ceil(common / LONGEST_STEP_MS)
  const step = common >= USUAL_STEP_MS && common % parts === 0 ? common / parts : USUAL_STEP_MS
  const shared = greatestDivisor(1000, step)
  return [1000 / shared, step / shared]
}

/** Makes a film ready. @param report is told how much is done, 0 to 1 */
export async function convertFilm(
  tools: FilmTools,
  { name, file }: { name: string; file: string },
  report: (part: number) => void,
  signal: AbortSignal,
): Promise<ShownFilm> {
  const { store, importer, media, dataFolder } = tools
  return store.withLocalFile(file, async (path) => {
    const format = await filmFormatOf(path)
    if (format === null)
      throw new UserFacingError(
        message('“{name}” is no film that is known here, whatever its name says. Export it as MP4 and add that.', { name }),
        415,
      )
    if (format !== 'animation') {
      const facts = await probeFilm(media, path, format, name, signal)
      return proxied(tools, name, { input: filmInput(format, path), facts, longestSeconds: LONGEST }, report, signal)
    }
    const { frames, width, height, delays } = await importer.run('animation', { name, file, dataFolder }, { name, signal })
    try {
      const rate = animationRate(delays)
      const [count, per] = rate
      const raw = ['-protocol_whitelist', 'pipe', '-f', 'rawvideo', '-pix_fmt', 'rgb24', '-s', `${width}x${height}`]
      return await proxied(
        tools,
        name,
        {
          input: [...raw, '-r', `${count}/${per}`, '-i', 'pipe:0'],
          stdin: framesOfAnimation(frames, width * height * 3, delays, count / per),
          longestSeconds: LONGEST,
          facts: {
            ...{
              width,
              height,
              rate,
              hasSound: false,
              soundAfterSeconds: 0,
              isHdr: false,
              isUnnamed709: false,
              notes: [],
            },
            seconds: delays.reduce((sum, delay) => sum + delay, 0) / 1000,
          },
        },
        report,
        signal,
      )
    } finally {
      await rm(frames, { force: true })
    }
  })
}

/** @throws UserFacingError when the media tool does not get through it */
async function encode(
  { media }: FilmTools,
  name: string,
  { input, stdin, facts, longestSeconds }: FilmSource,
  out: { proxy: string; sound: string; width: number; height: number },
  report: (part: number) => void,
  signal: AbortSignal,
) {
  const most = ['-t', String(longestSeconds)]
  const sound = facts.hasSound ? ['-map', '0:a:0', '-af', SOUND_FILTER] : []
  const onOutput = (piece: Buffer) => {
    const microseconds = Number(/out_time_us=(\d+)/.exec(piece.toString())?.[1] ?? 0)
    if (facts.seconds > 0) report(Math.min(1, microseconds / 1e6 / facts.seconds))
  }
  const args = [
    ...['-progress', 'pipe:1', ...input],
    ...['-map', '0:v:0', '-vf', pictureFilter(facts, out), ...sound, ...(facts.hasSound ? ['-c:a', 'aac', '-b:a', '160k'] : [])],
    ...[...pictureOut(facts.rate), ...most, ...PLAIN, out.proxy],
    ...(facts.hasSound ? [...sound, ...most, '-c:a', 'pcm_s16le', '-f', 's16le', out.sound] : []),
  ]
  await media.run(args, { signal, onOutput, timeoutSeconds: LONGEST_WORK_S, ...(stdin && { input: stdin }) }).catch((error) => {
    throw error instanceof UserFacingError || isDiskFull(error) || signal.aborted ? error : cannotBeRead(name)
  })
}

/** Makes of whatever the media tool reads what browser and encoder read. */
export async function proxied(
  tools: FilmTools,
  name: string,
  source: FilmSource,
  report: (part: number) => void,
  signal: AbortSignal,
): Promise<ShownFilm> {
  const { store, media } = tools
  const { facts } = source
  const size = keptSize(facts)
  const [proxyPath, soundPath] = [store.scratchPath('.mp4'), store.scratchPath('.pcm')]
  try {
    await encode(tools, name, source, { proxy: proxyPath, sound: soundPath, ...size }, (part) => report(part * 0.9), signal)
    const frames = (await videoPackets(proxyPath)).length
    const [count, per] = facts.rate
    const seconds = (frames * per) / count
    if (frames < 2) throw standsStill(name)
    if (seconds > LONGEST_FILM_S && source.longestSeconds === LONGEST) throw new UserFacingError(tooLong(name), 413)
    const soundBytes = facts.hasSound ? (await stat(soundPath)).size : 0
    const loudnessLufs = soundBytes > 0 ? await tools.loudnessOf(soundPath, soundBytes / 4) : null
    const proxy = (await store.adopt(proxyPath)).name
    report(0.92)
    const { strip, pictures } = await store.withLocalFile(proxy, (path) =>
      stripOf(tools, path, { frames, seconds, ...size }, signal),
    )
    report(0.95)
    const flashes = await store.withLocalFile(proxy, (path) => flashesOf(media, path, count / per, signal))
    const sound = loudnessLufs === null ? null : await tools.keepSound(soundPath)
    const isShort = facts.seconds - seconds > SHORT_BY_S
    const short = message('Only its first {seconds} seconds could be read; it may be damaged.', {
      seconds: Math.round(seconds * 10) / 10,
    })
    const notes = isShort ? [...facts.notes, short] : facts.notes
    const { rate, beginsSeconds } = facts
    const begins = beginsSeconds === undefined ? {} : { beginsSeconds }
    return { proxy, sound, strip, stripPictures: pictures, ...size, rate, ...begins, frames, loudnessLufs, flashes, notes }
  } finally {
    await Promise.all([proxyPath, soundPath].map((path) => rm(path, { force: true })))
  }
}
