/** What a film's file says of itself. */
import { z } from 'zod'
import { LONGEST_FILM_S, tooLong } from '#core/model/moving/film.ts'
import { type Message, message } from '#core/words/say.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import type { Ffmpeg } from '#server/media/ffmpeg.ts'
import { type FilmFormat, filmFormatOf } from './film-format.ts'

const fraction = z
  .string()
  .regex(/^\d+\/\d+$/)
  .transform((text) => text.split('/').map(Number) as [number, number])
  .catch([0, 0])
const seconds = z.coerce.number().catch(0)
const Stream = z.object({
  codec_type: z.string().optional(),
  width: z.number().default(0),
  height: z.number().default(0),
  duration: seconds,
  sample_aspect_ratio: z
    .string()
    .transform((text) => text.split(':').map(Number) as [number, number])
    .catch([1, 1]),
  color_space: z.string().default('unknown'),
  color_transfer: z.string().default('unknown'),
  r_frame_rate: fraction,
  avg_frame_rate: fraction,
  disposition: z.object({ attached_pic: z.number().default(0) }).default({ attached_pic: 0 }),
  side_data_list: z.array(z.object({ rotation: z.number().optional() })).default([]),
})
const Probe = z.object({ streams: z.array(Stream), format: z.object({ duration: seconds }).default({ duration: 0 }) })

const isMoving = (stream: z.infer<typeof Stream>) => stream.codec_type === 'video' && stream.disposition.attached_pic === 0

export interface FilmFacts {
  /** As it is seen: upright, pixels square. */
  width: number
  height: number
  /** 0 where the file does not say. */
  seconds: number
  /** Frames a second that it gets, as a fraction. */
  rate: [number, number]
  /** Moment of its first frame, where that is not the beginning. */
  beginsSeconds?: number
  hasSound: boolean
  /** By how much its sound goes on after its last picture. */
  soundAfterSeconds: number
  /** Its colours are brighter than a usual screen shows them. */
  isHdr: boolean
  /** The file does not say by which matrix its colours were made, and it is large: BT.709 then. */
  isUnnamed709: boolean
  notes: Message[]
}

/** More frames a second than these nothing here shows. */
const MOST_RATE = 30
/** Of what does not say, or has no rate. */
const USUAL_RATE: [number, number] = [30, 1]
const LEAST_RATE = 1
const HDR = /^(smpte2084|arib-std-b67)$/
/** A film larger than this no machine here reads in time. */
const MOST_PIXELS = 8192 * 4608

/** @returns the rate that a film is shown at, and whether frames of it are left out or it had none of its own */
export function shownRate(real: [number, number], mean: [number, number]): { rate: [number, number]; said: Message | null } {
  const [a, b] = [real[0] / real[1], mean[0] / mean[1]]
  const variable = message('Its frames came at changing distances. It is shown with {rate} frames a second.', { rate: MOST_RATE })
  if (!(a > 0) || !(b > 0) || b < LEAST_RATE) return { rate: USUAL_RATE, said: null }
  if (Math.abs(a - b) / b > 0.02) return { rate: USUAL_RATE, said: variable }
  if (a <= MOST_RATE + 0.01) return { rate: real, said: null }
  const fewer = (rate: [number, number]) => ({
    rate,
    said: message('It has {from} frames a second. Every edition shows {rate} of them.', {
      from: Math.round(a * 100) / 100,
      rate: Math.round((rate[0] / rate[1]) * 100) / 100,
    }),
  })
  for (const divisor of [2, 4, 8]) {
    const divided = a / divisor
    if (divided <= MOST_RATE + 0.01 && divided >= 23) return fewer([real[0], real[1] * divisor])
  }
  return fewer(USUAL_RATE)
}

export const cannotBeRead = (name: string) =>
  new UserFacingError(
    message('“{name}” cannot be read as a film; it may be damaged or broken off. Export it again, as MP4 for example.', { name }),
    422,
  )

/** Only this file is opened, by this demuxer. */
export const filmInput = (format: Exclude<FilmFormat, 'animation'>, path: string) => [
  ...['-protocol_whitelist', 'file', '-f', format, '-i', path],
]

/** Whether a file has a moving picture, and not a sound alone, or one with the picture of its cover. */
export async function hasMovingPicture(media: Ffmpeg, path: string, signal: AbortSignal): Promise<boolean> {
  const format = await filmFormatOf(path)
  if (format === null || format === 'animation') return false
  const args = [...filmInput(format, path), '-show_streams', '-show_format', '-of', 'json']
  const said = await media.probe(args, { signal }).catch((error) => {
    if (error instanceof UserFacingError || signal.aborted) throw error
    return '{}'
  })
  const { data } = Probe.safeParse(JSON.parse(said || '{}'))
  return data?.streams.some(isMoving) ?? false
}

/** @throws UserFacingError for what is no film, or too much of one */
export async function probeFilm(
  media: Ffmpeg,
  path: string,
  format: Exclude<FilmFormat, 'animation'>,
  name: string,
  signal: AbortSignal,
  longestSeconds = LONGEST_FILM_S,
): Promise<FilmFacts> {
  const said = await media
    .probe([...filmInput(format, path), '-show_streams', '-show_format', '-of', 'json'], { signal })
    .catch((error) => {
      if (error instanceof UserFacingError || signal.aborted) throw error
      throw cannotBeRead(name)
    })
  const parsed = Probe.safeParse(JSON.parse(said || '{}'))
  if (!parsed.success) throw cannotBeRead(name)
  const { streams, format: file } = parsed.data
  const video = streams.find(isMoving)
  if (!video || video.width === 0 || video.height === 0)
    throw new UserFacingError(
      message('“{name}” has no moving picture in it. A sound alone is dropped on a slide as its recording.', { name }),
      415,
    )
  if (video.width * video.height > MOST_PIXELS)
    throw new UserFacingError(
      message('“{name}” is {width} × {height} pixels large, more than can be read here. Export it smaller.', {
        name,
        width: video.width,
        height: video.height,
      }),
      413,
    )
  if (file.duration > longestSeconds) throw new UserFacingError(tooLong(name), 413)
  const [across, up] = video.sample_aspect_ratio
  const square = across > 0 && up > 0 ? across / up : 1
  const size = [Math.round(video.width * square), video.height] as const
  const turned = video.side_data_list.some(({ rotation = 0 }) => Math.abs(rotation) % 180 === 90)
  const [width, height] = turned ? [size[1], size[0]] : size
  const { rate, said: rateSaid } = shownRate(video.r_frame_rate, video.avg_frame_rate)
  const hasSound = streams.some((stream) => stream.codec_type === 'audio')
  const isHdr = HDR.test(video.color_transfer)
  return {
    width,
    height,
    seconds: file.duration,
    rate,
    hasSound,
    soundAfterSeconds: hasSound && video.duration > 0 ? Math.max(0, file.duration - video.duration) : 0,
    isHdr,
    isUnnamed709: /^(unknown|reserved)$/.test(video.color_space) && video.height >= 720,
    notes: [
      ...(rateSaid ? [rateSaid] : []),
      ...(isHdr
        ? [message('Its colours are brighter than a usual screen shows (HDR). They were brought into what all screens show.')]
        : []),
    ],
  }
}
