/**
 * A narrated presentation file: each slide's title, pictures, notes, description and sound, which begins by itself, and the slide that goes
 * on by itself at the schedule's time. Written by a general library; `presentation-parts.ts` adds what it does not write.
 */
import { readFile, rm } from 'node:fs/promises'
import { createRequire } from 'node:module'
import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate'
import type PptxGenJS from 'pptxgenjs'
import sharp from 'sharp'
import { PRE_ROLL_SAMPLES } from '#core/audio/mix/mix.ts'
import type { PlannedFilm } from '#core/edition/films.ts'
import { type EditionPlan, plan } from '#core/edition/plan.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { SAMPLE_RATE, toSamples, toSeconds } from '#core/timing/clocks.ts'
import { TRANSITION_FRAME } from '#core/timing/scheduled.ts'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { mixedSlide } from '#server/encode/sound-segment.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { bytesOf } from '#server/media/sound-files.ts'
import { filmedClip } from './filmed-clip.ts'
import {
  knownTypes,
  notesOf,
  orderedPresentation,
  properties,
  type SlideTimes,
  soundRelations,
  timedSlide,
} from './presentation-parts.ts'

const [WIDE, HIGH] = [13.333, 7.5]
/** As slide programs have it: the sign of the sound lies outside the slide. */
const SIGN = { x: WIDE + 0.2, y: 0, w: 0.4, h: 0.4 }

const MASTER = 'NARRATED'

const Pptx = createRequire(import.meta.url)('pptxgenjs') as typeof PptxGenJS

async function slideSound(context: AppContext, slide: Parameters<typeof mixedSlide>[1], signal: AbortSignal): Promise<Buffer> {
  const { stereo } = await mixedSlide(context, slide, signal)
  const out = context.store.scratchPath('.m4a')
  try {
    const input = ['-protocol_whitelist', 'file,pipe', '-f', 's16le', '-ar', '48000', '-ac', '2', '-i', 'pipe:0']
    await context.media.run([...input, '-c:a', 'aac', '-b:a', '96k', '-movflags', '+faststart', '-f', 'ipod', out], {
      input: bytesOf(stereo.subarray(2 * PRE_ROLL_SAMPLES)),
      signal,
    })
    return await readFile(out)
  } finally {
    await rm(out, { force: true })
  }
}

/** The heading of each slide's section, where a lecture has some: a name that comes again is told apart. */
function sectionsOf({ slides, title }: Lecture): (string | undefined)[] {
  if (!slides.some((slide) => slide.section !== '')) return slides.map(() => undefined)
  const used = new Map<string, number>()
  let current = title
  return slides.map((slide, i) => {
    if (slide.section !== '' || i === 0) {
      const name = slide.section || title
      const times = (used.get(name) ?? 0) + 1
      used.set(name, times)
      current = times > 1 ? `${name} (${times})` : name
    }
    return current
  })
}

/** Puts a picture in the middle of a slide, as large as it fits. */
async function addPicture(page: PptxGenJS.Slide, context: AppContext, picture: string, objectName: string, altText: string) {
  const { data, info } = await sharp(await context.store.read(picture))
    .png()
    .toBuffer({ resolveWithObject: true })
  const scale = Math.min(WIDE / info.width, HIGH / info.height)
  const [w, h] = [info.width * scale, info.height * scale]
  const place = { x: (WIDE - w) / 2, y: (HIGH - h) / 2, w, h }
  page.addImage({ data: `image/png;base64,${data.toString('base64')}`, ...place, objectName, altText })
}

/** A presentation is put together in memory, with several copies of each film at once. */
const MOST_FILM_BYTES = 150 * 1024 ** 2

/** @throws UserFacingError for more films than go into one */
async function refuseTooMany({ store }: AppContext, { slides }: EditionPlan) {
  let bytes = 0
  for (const { proxy, frames, runs } of slides.flatMap((slide) => slide.films ?? [])) {
    // of what was filmed with a take only what is seen goes along
    const seen = runs ? runs.reduce((sum, { from, to }) => sum + to - from, 0) / frames : 1
    bytes += ((await store.size(proxy)) ?? 0) * seen
  }
  if (bytes > MOST_FILM_BYTES)
    throw new UserFacingError(
      message(
        'The films of this lecture are {megabytes} MB together; {most} go into a presentation. Shorten them, or take the lecture away as a bundle.',
        { megabytes: Math.round(bytes / 1024 ** 2), most: MOST_FILM_BYTES / 1024 ** 2 },
      ),
      413,
    )
}

const filmName = (film: number) => `Film ${film + 1}`

/** Puts the films of a slide over its pictures. @returns when each is shown, and how */
async function addFilms(
  page: PptxGenJS.Slide,
  context: AppContext,
  films: readonly PlannedFilm[],
  signal: AbortSignal,
): Promise<SlideTimes['films']> {
  const told: SlideTimes['films'] = []
  for (const [i, planned] of films.entries()) {
    const { bytes, film } = planned.runs
      ? await filmedClip(context, planned, planned.runs, signal)
      : { bytes: Buffer.from(await context.store.read(planned.proxy)), film: planned }
    const { place, rate, from, to, frames, startSamples, stays } = film
    const first = planned.runs?.[0]?.from ?? from
    const [count, per] = planned.fileRate ?? planned.rate
    const cover = await context.store.withLocalFile(film.proxy, (path) =>
      context.media.run([
        ...['-protocol_whitelist', 'file', '-ss', String((first * per) / count), '-f', 'mov', '-i', path],
        ...[
          '-frames:v',
          '1',
          ...(film.edge ? ['-vf', 'crop=min(iw\\,ih):min(iw\\,ih)'] : []),
          '-c:v',
          'png',
          '-f',
          'image2pipe',
          'pipe:1',
        ],
      ]),
    )
    const inches = { x: place.x * WIDE, y: place.y * HIGH, w: place.width * WIDE, h: place.height * HIGH }
    page.addMedia({
      type: 'video',
      extn: 'mp4',
      data: `video/mp4;base64,${bytes.toString('base64')}`,
      cover: `image/png;base64,${cover.toString('base64')}`,
      objectName: filmName(i),
      ...inches,
    })
    const ms = (count: number) => Math.round((count * rate[1] * 1000) / rate[0])
    const once = toSamples(ms(to - from) / 1000)
    told.push({
      name: filmName(i),
      ms: Math.round(toSeconds(startSamples) * 1000),
      lengthMs: ms(to - from),
      trim: { start: ms(from), end: ms(frames - to) },
      loops: film.endSamples - startSamples > once + SAMPLE_RATE / 10,
      stays,
      isMuted: film.isMuted,
      ...(film.edge && { edge: film.edge }),
    })
  }
  return told
}

const stepName = (step: number) => `Picture ${step + 1}`

function openDeck(lecture: Lecture): PptxGenJS {
  const deck = new Pptx()
  deck.defineLayout({ name: 'SIXTEEN_NINE', width: WIDE, height: HIGH })
  deck.layout = 'SIXTEEN_NINE'
  deck.title = lecture.title
  // titles are there for outlines and screen readers, above what is seen
  const title = { name: 'title', type: 'title' as const, x: 0, y: -1, w: WIDE, h: 0.8, fontSize: 20 }
  deck.defineSlideMaster({
    title: MASTER,
    background: { color: '000000' },
    objects: [{ placeholder: { options: title, text: '' } }],
  })
  return deck
}

/** A slide that is shown with its pictures and sound; one that is hidden with its pictures, all of them at once. */
async function addSlide(
  page: PptxGenJS.Slide,
  slide: Lecture['slides'][number],
  planned: EditionPlan['slides'][number] | undefined,
  context: AppContext,
  signal: AbortSignal,
): Promise<SlideTimes> {
  page.addText(slide.title, { placeholder: 'title' })
  page.addNotes(slide.script.trim())
  const shown = planned?.pictures ?? slide.steps.slice(-1).map(({ picture }) => ({ picture, atSamples: 0 }))
  // captions that are drawn in divide the time of a picture
  const pictures = shown.filter(({ picture }, i) => picture !== shown[i - 1]?.picture)
  for (const [i, { picture }] of pictures.entries())
    await addPicture(page, context, picture, stepName(i), i === 0 ? slide.altText || slide.title : '')
  if (!planned) page.hidden = true
  const films = planned ? await addFilms(page, context, planned.films ?? [], signal) : []
  // films sound by themselves
  const beds = planned?.beds.filter((bed) => !bed.isFilm) ?? []
  const hasSound = planned !== undefined && (planned.sound !== null || beds.some((bed) => bed.to > PRE_ROLL_SAMPLES))
  if (hasSound) {
    const sound = await slideSound(context, { ...planned, beds }, signal)
    page.addMedia({ type: 'audio', data: `audio/m4a;base64,${sound.toString('base64')}`, extn: 'm4a', ...SIGN })
  }
  const ms = (samples: number) => Math.round(toSeconds(samples) * 1000)
  return {
    ms: planned ? ms(planned.lengthSamples) : 0,
    hasSound,
    films,
    steps: pictures.slice(1).map(({ atSamples }, i) => ({ name: stepName(i + 1), ms: ms(atSamples) })),
    transition: planned?.transition
      ? { kind: planned.transition.kind, seconds: toSeconds(planned.transition.frames * TRANSITION_FRAME) }
      : null,
  }
}

export async function narratedPresentation(context: AppContext, lecture: Lecture, signal: AbortSignal): Promise<Uint8Array> {
  const edition = plan(lecture)
  await refuseTooMany(context, edition)
  const planned = new Map(edition.slides.map((slide) => [slide.slideId, slide]))
  const deck = openDeck(lecture)
  const sections = sectionsOf(lecture)
  for (const title of new Set(sections)) if (title !== undefined) deck.addSection({ title })
  const told: SlideTimes[] = []
  for (const [i, slide] of lecture.slides.entries()) {
    signal.throwIfAborted()
    const sectionTitle = sections[i]
    const page = deck.addSlide({ masterName: MASTER, ...(sectionTitle === undefined ? {} : { sectionTitle }) })
    told.push(await addSlide(page, slide, planned.get(slide.id), context, signal))
  }
  const parts = unzipSync(new Uint8Array((await deck.write({ outputType: 'nodebuffer' })) as Buffer))
  const change = (name: string, by: (xml: string) => string) => {
    const part = parts[name]
    if (part) parts[name] = strToU8(by(strFromU8(part)))
  }
  for (const name of Object.keys(parts)) if (name.endsWith('/')) delete parts[name]
  for (const name of Object.keys(parts).filter((one) => /^ppt\/(slides|notesSlides)\/\w+\.xml$/.test(one)))
    change(name, (xml) => xml.replaceAll('lang="en-US"', `lang="${lecture.language}"`))
  for (const [i, times] of told.entries()) {
    change(`ppt/slides/slide${i + 1}.xml`, (xml) => (times.ms > 0 ? timedSlide(xml, times) : xml))
    change(`ppt/slides/_rels/slide${i + 1}.xml.rels`, soundRelations)
    change(`ppt/notesSlides/notesSlide${i + 1}.xml`, (xml) => notesOf(xml, lecture.slides[i]!.script.trim(), lecture.language))
  }
  change('ppt/presentation.xml', orderedPresentation)
  change('ppt/theme/theme1.xml', (xml) => xml.replace(/name="Office[^"]*"/g, 'name="Plain"'))
  const hidden = lecture.slides.length - planned.size
  const { author } = lecture.exportSettings
  const about = {
    title: lecture.title,
    author,
    language: lecture.language,
    slides: lecture.slides.length,
    hidden,
    at: new Date(),
  }
  for (const [name, xml] of Object.entries(properties(about))) parts[name] = strToU8(xml)
  change('[Content_Types].xml', (xml) => knownTypes(xml, new Set(Object.keys(parts))))
  return zipSync(parts, { level: 1 })
}
