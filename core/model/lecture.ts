/** A lecture: its slides in order, and what holds for all of them. */
import type { Bed } from './bed.ts'
import type { CaptionTrack } from './caption.ts'
import type { ExportSettings } from './export-settings.ts'
import type { SmallPicture } from './moving/small-picture.ts'
import type { Slide } from './slide.ts'
import type { TimingDefaults } from './timing.ts'
import type { Transition } from './transition.ts'

export interface Lecture {
  id: string
  title: string
  language: string
  timing: TimingDefaults
  transition: Transition
  /** How its editions are made. */
  exportSettings: ExportSettings
  /** How the teacher's picture is shown, where a camera was on. */
  smallPicture: SmallPicture
  /** Whether it is counted what of its editions is watched. */
  countsWatching: boolean
  slides: Slide[]
  /** Characters a line of the captions that make themselves. */
  lineCharacters: number
  /** Captions and subtitles. */
  captionTracks: CaptionTrack[]
  /** Chapters from files, each track in its language; those of the slides' own titles need none. */
  chapterTracks: CaptionTrack[]
  beds: Bed[]
  /** Characters of the captions in the picture that no font has, each once; none where captions are not drawn into it. */
  undrawableCaptions: string[]
}
