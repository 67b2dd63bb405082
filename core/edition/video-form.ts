/** The kinds of video, down to their numbers. */
import type { ExportSettings, Preset } from '#core/model/export-settings.ts'
import { SAMPLE_RATE } from '#core/timing/clocks.ts'

/** One kind of video, down to its numbers. */
export interface VideoForm {
  preset: Preset
  width: number
  height: number
  container: 'mp4' | 'webm'
  /** Frames a second, all alike; null where each picture is shown and then repeated as `frames.ts` says. */
  rate: number | null
  sound: SoundForm
  /** Name in the edition. */
  file: string
}
export interface SoundForm {
  codec: 'aac' | 'opus'
  channels: 1 | 2
  kilobits: number
}

const AAC: SoundForm = { codec: 'aac', channels: 2, kilobits: 128 }
/** Frames of a constant rate: five a second is the least that picky players take; ten keeps changes within 50 ms of the voice. */
const CONSTANT_RATE = 10
/** Where something moves, frames are as near as films have them. */
const MOVING_RATE = 30

/** Samples between two frames of a constant rate. */
export const gridSamples = (rate: number) => SAMPLE_RATE / rate

/** @param moves whether there is a film in the lecture */
export function formOf(exportSettings: Pick<ExportSettings, 'height'>, preset: Preset, moves = false): VideoForm {
  const height = preset === 'small' ? 720 : exportSettings.height
  const size = { width: (height * 16) / 9, height }
  switch (preset) {
    case 'standard':
      return { preset, ...size, container: 'mp4', rate: null, sound: AAC, file: 'video.mp4' }
    case 'small':
      return {
        preset,
        ...size,
        container: 'mp4',
        rate: null,
        sound: { codec: 'aac', channels: 1, kilobits: 64 },
        file: 'video-small.mp4',
      }
    case 'everywhere':
      return {
        preset,
        ...size,
        container: 'mp4',
        rate: moves ? MOVING_RATE : CONSTANT_RATE,
        sound: AAC,
        file: 'video-everywhere.mp4',
      }
    case 'open':
      return {
        preset,
        ...size,
        container: 'webm',
        rate: null,
        sound: { codec: 'opus', channels: 2, kilobits: 96 },
        file: 'video.webm',
      }
  }
}

/** What the sound-only file is made of. */
export const soundOnlyForm = (exportSettings: Pick<ExportSettings, 'presets'>): SoundForm =>
  exportSettings.presets.every((preset) => preset === 'small') ? formOf({ height: 720 }, 'small').sound : AAC
