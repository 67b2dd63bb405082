import { desc, isNotNull } from 'drizzle-orm'
import { type Estimate, estimate, type SlideEstimate } from '#core/edition/estimate.ts'
import { type EditionPlan, plan } from '#core/edition/plan.ts'
import { type ExportSettings, PRESETS, type Preset } from '#core/model/export-settings.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { AppContext } from '#server/context/context.ts'
import { segments } from '#server/db/schema.ts'
import type { SegmentRecipe } from '#server/encode/segment.ts'
import { soundsFor, wantedSegments } from './lecture-segments.ts'
import { knownSegments } from './segments.ts'

export interface VideoEstimate extends Estimate {
  preset: Preset
}

/** Segments of other lectures that are learnt from. */
const LEARNT_FROM = 400

/** @param presets those of the lecture's own making when absent */
export async function estimates(
  context: AppContext,
  lecture: Lecture,
  presets = lecture.exportSettings.presets,
): Promise<VideoEstimate[]> {
  const edition = plan(lecture)
  const exportSettings: ExportSettings = { ...lecture.exportSettings, presets: [...presets] }
  const wanted = wantedSegments(edition.slides, exportSettings)
  const known = await knownSegments(context, [...[...wanted.videos.values()].flat(), ...wanted.sounds.flatMap((s) => s.recipes)])
  const own = [...known.values()].flatMap((segment) => segment.facts ?? [])
  const rows = await context.db.read
    .select({ facts: segments.facts })
    .from(segments)
    .where(isNotNull(segments.facts))
    .orderBy(desc(segments.usedAt))
    .limit(LEARNT_FROM)
  const others = rows.flatMap((row) => row.facts ?? [])
  const thumbnails = await Promise.all(edition.slides.map(({ thumbnail }) => context.store.size(thumbnail)))
  return presets.map((preset) => {
    const [form, videos] = [...wanted.videos.entries()].find(([f]) => f.preset === preset)!
    const sounds = soundsFor(wanted, form.sound)
    const learnt = own.filter((fact) => fact.kind === 'video').length >= edition.slides.length / 2 ? own : [...own, ...others]
    const pictures = entries(edition, videos, known).map((entry, i) => ({ ...entry, thumbnailBytes: thumbnails[i]! }))
    return {
      preset,
      ...estimate(form, pictures, sounds ? entries(edition, sounds, known) : unknown(edition), learnt),
    }
  })
}

const entries = (edition: EditionPlan, recipes: readonly SegmentRecipe[], known: Awaited<ReturnType<typeof knownSegments>>) =>
  recipes.map((recipe, i): SlideEstimate => ({ known: known.get(recipe.key)?.facts ?? null, plan: edition.slides[i]! }))

/** Of sound that is made in one pass at the end. */
const unknown = (edition: EditionPlan) => edition.slides.map((slide): SlideEstimate => ({ known: null, plan: slide }))

/** Every kind of video there is, for the choice between them. */
export const allEstimates = (context: AppContext, lecture: Lecture) => estimates(context, lecture, [...PRESETS])
