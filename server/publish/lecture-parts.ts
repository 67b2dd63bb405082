/** All parts a lecture's edition is made of, and the making of those that are missing. */
import pMap from 'p-map'
import { PARTS_AT_A_TIME } from '#core/edition/forecast.ts'
import { formOf, type Making, type SoundForm, soundOnlyForm, type VideoForm } from '#core/edition/making.ts'
import type { EditionPlan, PlannedSlide } from '#core/edition/plan.ts'
import type { Tools } from '#server/tools.ts'
import { knownParts, makePart, type Part, type PartRecipe } from './parts.ts'
import { soundPart } from './sound-part.ts'
import { videoPart } from './video-part.ts'

export interface WantedParts {
  forms: VideoForm[]
  /** By form, one a slide. */
  videos: Map<VideoForm, PartRecipe[]>
  /** By channels and rate, one a slide. */
  sounds: { form: SoundForm; recipes: PartRecipe[] }[]
}

const sameSound = (a: SoundForm, b: SoundForm) => a.codec === b.codec && a.channels === b.channels && a.kilobits === b.kilobits

export function wantedParts(tools: Tools, slides: readonly PlannedSlide[], making: Making): WantedParts {
  const forms = making.presets.map((preset) => formOf(making, preset))
  const soundForms = [soundOnlyForm(making), ...forms.map((form) => form.sound)].filter((form) => form.codec === 'aac')
  const unlike = soundForms.filter((form, i) => soundForms.findIndex((other) => sameSound(form, other)) === i)
  return {
    forms,
    videos: new Map(forms.map((form) => [form, slides.map((slide) => videoPart(tools, slide, form, making.crest))])),
    sounds: unlike.map((form) => ({ form, recipes: slides.map((slide) => soundPart(tools, slide, form)) })),
  }
}

/** @returns the sound parts a form is joined from; null when its sound is made in one pass */
export const soundsFor = (wanted: WantedParts, form: SoundForm) =>
  wanted.sounds.find((sound) => sameSound(sound.form, form))?.recipes ?? null

export const allRecipes = (wanted: WantedParts): PartRecipe[] => [
  ...[...wanted.videos.values()].flat(),
  ...wanted.sounds.flatMap((sound) => sound.recipes),
]

/** Makes what is missing, slide by slide. @param onPart is told how many of all are there */
export async function makeParts(
  tools: Tools,
  recipes: readonly PartRecipe[],
  onPart: (done: number, all: number) => void,
  signal: AbortSignal,
  /** Asked before each part that has to be made. */
  mayGoOn: () => Promise<void> = async () => {},
): Promise<Map<string, Part>> {
  const parts = await knownParts(tools, recipes)
  let done = recipes.filter((recipe) => parts.has(recipe.key)).length
  // two slides alike are one part
  const missing = [...new Map(recipes.filter((r) => !parts.has(r.key)).map((recipe) => [recipe.key, recipe])).values()]
  onPart(done, recipes.length)
  await pMap(
    missing,
    async (recipe) => {
      await mayGoOn()
      signal.throwIfAborted()
      parts.set(recipe.key, await makePart(tools, recipe, signal))
      done++
      onPart(done, recipes.length)
    },
    { concurrency: PARTS_AT_A_TIME, signal },
  )
  return parts
}

/** Slides whose parts are worth making before anybody asks: those that are as they will be heard, or are meant to be silent. */
export function settledSlides(plan: EditionPlan, scripts: ReadonlyMap<string, string>): PlannedSlide[] {
  return plan.slides.filter((slide) => slide.sound !== null || (scripts.get(slide.slideId) ?? '').trim() === '')
}
