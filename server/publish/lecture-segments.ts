/** All segments a lecture's edition is made of, and the making of those that are missing. */
import pMap from 'p-map'
import { SEGMENTS_AT_A_TIME } from '#core/edition/estimate.ts'
import type { EditionPlan, PlannedSlide } from '#core/edition/plan.ts'
import { formOf, type SoundForm, soundOnlyForm, type VideoForm } from '#core/edition/video-form.ts'
import type { ExportSettings } from '#core/model/export-settings.ts'
import type { AppContext } from '#server/context/context.ts'
import type { SegmentRecipe } from '#server/encode/segment.ts'
import { soundSegment } from '#server/encode/sound-segment.ts'
import { videoSegment } from '#server/encode/video-segment.ts'
import { knownSegments, makeAndKeep, type Segment, touchSegments } from './segments.ts'

export interface WantedSegments {
  forms: VideoForm[]
  /** By form, one a slide. */
  videos: Map<VideoForm, SegmentRecipe[]>
  /** By channels and rate, one a slide. */
  sounds: { form: SoundForm; recipes: SegmentRecipe[] }[]
}

const sameSound = (a: SoundForm, b: SoundForm) => a.codec === b.codec && a.channels === b.channels && a.kilobits === b.kilobits

/** Whether anything moves: one kind of video has other frames then, all through. */
export const hasFilms = (slides: readonly Pick<PlannedSlide, 'films'>[]) => slides.some((slide) => slide.films?.length)

/** @param moves whether anything does in the lecture, of which these slides may be some */
export function wantedSegments(
  slides: readonly PlannedSlide[],
  exportSettings: ExportSettings,
  moves = hasFilms(slides),
): WantedSegments {
  const forms = exportSettings.presets.map((preset) => formOf(exportSettings, preset, moves))
  const soundForms = [soundOnlyForm(exportSettings), ...forms.map((form) => form.sound)].filter((form) => form.codec === 'aac')
  const unlike = soundForms.filter((form, i) => soundForms.findIndex((other) => sameSound(form, other)) === i)
  return {
    forms,
    videos: new Map(forms.map((form) => [form, slides.map((slide) => videoSegment(slide, form, exportSettings.crest))])),
    sounds: unlike.map((form) => ({ form, recipes: slides.map((slide) => soundSegment(slide, form)) })),
  }
}

/** @returns the sound segments a form is joined from; null when its sound is made in one pass */
export const soundsFor = (wanted: WantedSegments, form: SoundForm) =>
  wanted.sounds.find((sound) => sameSound(sound.form, form))?.recipes ?? null

export const allRecipes = (wanted: WantedSegments): SegmentRecipe[] => [
  ...[...wanted.videos.values()].flat(),
  ...wanted.sounds.flatMap((sound) => sound.recipes),
]

/** Most segments of one run of the media tool: as many again would save a hundredth, and be lost together when it is killed. */
const MOST_TOGETHER = 8

/** Segments of one form for one run each; few enough for all processors to have a segment of what is missing. */
function runs(missing: readonly SegmentRecipe[], most: number, atATime: number): SegmentRecipe[][] {
  return [...new Set(missing.map((recipe) => recipe.form))].flatMap((form) => {
    const alike = missing.filter((recipe) => recipe.form === form)
    const together = alike[0]!.runsAlone ? 1 : Math.min(most, Math.ceil(alike.length / atATime))
    return Array.from({ length: Math.ceil(alike.length / together) }, (_, i) => alike.slice(i * together, (i + 1) * together))
  })
}

export interface MakingOptions {
  /** Asked before each run of the media tool. */
  mayGoOn?: () => Promise<void>
  /** Most segments that are encoded by one run. */
  together?: number
}

/** Makes what is missing. @param onPart is told how many of all are there */
export async function makeSegments(
  context: AppContext,
  recipes: readonly SegmentRecipe[],
  onPart: (done: number, all: number) => void,
  signal: AbortSignal,
  { mayGoOn = async () => {}, together = MOST_TOGETHER }: MakingOptions = {},
): Promise<Map<string, Segment>> {
  const segments = await knownSegments(context, recipes)
  await touchSegments(context, [...segments.keys()])
  let done = recipes.filter((recipe) => segments.has(recipe.key)).length
  // two slides alike are one segment
  const missing = [...new Map(recipes.filter((r) => !segments.has(r.key)).map((recipe) => [recipe.key, recipe])).values()]
  const atATime = SEGMENTS_AT_A_TIME + context.tasks.elsewhere()
  onPart(done, recipes.length)
  await pMap(
    runs(missing, together, atATime),
    async (run) => {
      await mayGoOn()
      signal.throwIfAborted()
      const made = await makeAndKeep(context, run, signal)
      for (const [i, recipe] of run.entries()) segments.set(recipe.key, made[i]!)
      done += run.length
      onPart(done, recipes.length)
    },
    { concurrency: atATime, signal },
  )
  return segments
}

/** Slides whose segments are worth making before anybody asks: those that are as they will be heard, or are meant to be silent. */
export function settledSlides(plan: EditionPlan, scripts: ReadonlyMap<string, string>): PlannedSlide[] {
  return plan.slides.filter((slide) => slide.sound !== null || (scripts.get(slide.slideId) ?? '').trim() === '')
}
