/** Predicts the editions of a lecture from the parts that are there. */
import { stat } from 'node:fs/promises'
import { desc, isNotNull } from 'drizzle-orm'
import { type Forecast, forecast, type SlideForecast } from '#core/edition/forecast.ts'
import { type EditionPlan, plan } from '#core/edition/plan.ts'
import { formOf } from '#core/edition/video-form.ts'
import { type ExportSettings, PRESETS, type Preset } from '#core/model/export-settings.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { AppContext } from '#server/context/context.ts'
import { parts } from '#server/db/schema.ts'
import { soundsFor, wantedParts } from './lecture-parts.ts'
import { knownParts, type PartRecipe } from './parts.ts'

export interface VideoForecast extends Forecast {
  preset: Preset
}

/** Parts of other lectures that are learnt from. */
const LEARNT_FROM = 400

/** @param presets those of the lecture's own making when absent */
export async function forecasts(
  context: AppContext,
  lecture: Lecture,
  presets = lecture.making.presets,
): Promise<VideoForecast[]> {
  const edition = plan(lecture)
  const making: ExportSettings = { ...lecture.making, presets: [...presets] }
  const wanted = wantedParts(context, edition.slides, making)
  const known = await knownParts(context, [...[...wanted.videos.values()].flat(), ...wanted.sounds.flatMap((s) => s.recipes)])
  const own = [...known.values()].flatMap((part) => part.facts ?? [])
  const rows = await context.db.read
    .select({ facts: parts.facts })
    .from(parts)
    .where(isNotNull(parts.facts))
    .orderBy(desc(parts.usedAt))
    .limit(LEARNT_FROM)
  const others = rows.flatMap((row) => row.facts ?? [])
  const thumbnails = await Promise.all(
    edition.slides.map(({ thumbnail }) =>
      stat(context.store.path(thumbnail)).then(
        ({ size }) => size,
        () => null,
      ),
    ),
  )
  return presets.map((preset) => {
    const form = formOf(making, preset)
    const videos = [...wanted.videos.entries()].find(([f]) => f.preset === preset)![1]
    const sounds = soundsFor(wanted, form.sound)
    const learnt = own.filter((fact) => fact.kind === 'video').length >= edition.slides.length / 2 ? own : [...own, ...others]
    const pictures = entries(edition, videos, known).map((entry, i) => ({ ...entry, thumbnailBytes: thumbnails[i]! }))
    return {
      preset,
      ...forecast(form, pictures, sounds ? entries(edition, sounds, known) : unknown(edition), learnt),
    }
  })
}

const entries = (edition: EditionPlan, recipes: readonly PartRecipe[], known: Awaited<ReturnType<typeof knownParts>>) =>
  recipes.map((recipe, i): SlideForecast => ({ known: known.get(recipe.key)?.facts ?? null, plan: edition.slides[i]! }))

/** Of sound that is made in one pass at the end. */
const unknown = (edition: EditionPlan) => edition.slides.map((slide): SlideForecast => ({ known: null, plan: slide }))

/** Every kind of video there is, for the choice between them. */
export const allForecasts = (context: AppContext, lecture: Lecture) => forecasts(context, lecture, [...PRESETS])
