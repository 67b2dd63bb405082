/** Makes an edition: encodes what is not encoded yet, joins, and keeps the result under the next number. */

import { randomUUID } from 'node:crypto'
import { existsSync } from 'node:fs'
import { mkdir, rm, statfs } from 'node:fs/promises'
import { join } from 'node:path'
import { setTimeout as wait } from 'node:timers/promises'
import { and, eq, inArray, max } from 'drizzle-orm'
import sharp from 'sharp'
import { loudnessOfBlocks } from '#core/audio/loudness/loudness.ts'
import { checks, holding } from '#core/edition/checks/checks.ts'
import { type EditionManifest, publicManifest } from '#core/edition/manifest.ts'
import { type EditionPlan, plan, settingsFingerprint, slideCaptions, slideFingerprint } from '#core/edition/plan.ts'
import { type SoundForm, soundOnlyForm } from '#core/edition/video-form.ts'
import type { JobKind } from '#core/jobs/job.ts'
import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { type Message, message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { editionFiles, editions, jobs, links } from '#server/db/schema.ts'
import { readLecture } from '#server/domain/lectures/read.ts'
import { finishedPictures } from '#server/encode/pictures.ts'
import type { SegmentRecipe } from '#server/encode/segment.ts'
import { isDiskFull, UserFacingError } from '#server/errors/user-facing-error.ts'
import { editionsKept } from '#server/people/quotas.ts'
import { captionFiles, chapterFiles, editionTexts } from '#server/publish/edition-texts.ts'
import { estimates } from '#server/publish/estimates.ts'
import { joinSound } from '#server/publish/join-sound.ts'
import { allRecipes, makeSegments, soundsFor, wantedSegments } from '#server/publish/lecture-segments.ts'
import { addMetadata, addSoundMetadata, writeChapters } from '#server/publish/metadata.ts'
import { muxPictures } from '#server/publish/mux.ts'
import type { Segment } from '#server/publish/segments.ts'
import { wholeSound } from '#server/publish/whole-sound.ts'
import type { JobContext, JobDefinition, Report } from '#server/queue/queue.ts'
import type { Lend } from '#server/storage/file-store.ts'
import { keepNewestEditions } from '#server/watch/editions.ts'
import { newToken } from '#server/watch/token.ts'
import { alignTake } from './align-take.ts'
import { tidyTake } from './tidy-take.ts'

/** Share of the progress bar that segments have; the rest is joining. Measured on the demo lecture with nothing encoded before. */
const SEGMENTS_SHARE = 0.85
const POSTER = { width: 1280, height: 720 }

interface EditionFile {
  name: string
  file: string
  bytes: number
  contentType: string
}

/** Jobs that make what is kept on a slide. */
const MAKING: JobKind[] = [
  'film',
  'footage',
  'tidy',
  'import-sound',
  'split-recording',
  'split-session',
  'patch-sentence',
  'move-words',
]
const LOOK_AGAIN_MS = 200

/** What was recorded or dropped before this was asked for is in it: a take becomes the kept one when it is tidied, a film is seen when it is ready. */
async function allMade({ db }: AppContext, lectureId: string, report: Report, signal: AbortSignal) {
  const open = and(eq(jobs.lectureId, lectureId), inArray(jobs.kind, MAKING), inArray(jobs.state, ['queued', 'running']))
  for (;;) {
    const [waitedFor] = await db.read.select({ kind: jobs.kind }).from(jobs).where(open).limit(1)
    if (!waitedFor) return
    report(
      0,
      waitedFor.kind === 'film' || waitedFor.kind === 'footage'
        ? message('Waiting for films to be made ready')
        : message('Waiting for takes to be tidied'),
    )
    await wait(LOOK_AGAIN_MS, undefined, { signal })
  }
}

/** The lecture with every kept take tidied and its captions timed: one recorded a moment ago may still be in the queue. */
async function tidiedLecture(lectureId: string, context: JobContext, report: Report, signal: AbortSignal): Promise<Lecture> {
  await allMade(context, lectureId, report, signal)
  const lecture = await readLecture(context.db.read, lectureId)
  for (const [i, slide] of lecture.slides.entries()) {
    const take = keptTake(slide)
    if (!take || slide.hidden) continue
    report(0, message('Looking at slide {number}', { number: i + 1 }))
    if (take.clip === null) await tidyTake({ takeId: take.id }, context, () => {}, signal)
    // returns at once where the captions are timed already
    await alignTake({ slideId: slide.id, captionsOnly: true }, context, () => {}, signal)
  }
  return readLecture(context.db.read, lectureId)
}

/** Gives the edition its number and makes it visible, in one step. The first edition of a lecture gets a link as well. */
async function keepEdition(
  { db, events, school }: AppContext,
  lectureId: string,
  id: string,
  manifest: EditionManifest,
  files: EditionFile[],
): Promise<number> {
  const kept = school && (await editionsKept(db.read, lectureId))
  const number = await db.write(async (tx) => {
    const [last] = await tx
      .select({ number: max(editions.number) })
      .from(editions)
      .where(eq(editions.lectureId, lectureId))
    const next = (last?.number ?? 0) + 1
    await tx.insert(editions).values({ id, lectureId, number: next, createdAt: Date.now(), manifest })
    await tx.insert(editionFiles).values(files.map((file) => ({ editionId: id, ...file })))
    if (kept !== null) await keepNewestEditions(tx, lectureId, kept)
    const known = await tx.select().from(links).where(eq(links.lectureId, lectureId))
    if (known.length === 0) await tx.insert(links).values({ token: newToken(), lectureId, name: '', createdAt: Date.now() })
    return next
  })
  events.tell({ type: 'lecture', lectureId })
  return number
}

const megabytes = (bytes: number) => `${Math.ceil(bytes / 1e6)} MB`

/** What has to be free while an edition is made: each video lies there twice for a moment. */
async function spaceLeft(context: AppContext, needed: number): Promise<number> {
  const { bavail, bsize } = await statfs(context.config.dataFolder)
  return bavail * bsize - needed
}

const tooFull = (needed: number, left: number) =>
  new UserFacingError(
    message(
      'The disk is too full: this edition needs about {needed} while it is made, and {megabytes} of them are missing. Free that much and make it again; what was saved before is untouched.',
      { needed: megabytes(needed), megabytes: megabytes(-left) },
    ),
    507,
  )

/** What an edition is joined from. */
interface Ingredients {
  lecture: Lecture
  edition: EditionPlan
  manifest: EditionManifest
  captions: ReturnType<typeof captionFiles>
  segments: Map<string, Segment>
  wanted: ReturnType<typeof wantedSegments>
}

/** Loudness and true peak of the published sound, from what its segments told. */
function soundFigures(recipes: readonly SegmentRecipe[], segments: Map<string, Segment>) {
  const facts = recipes.map((recipe) => segments.get(recipe.key)?.facts)
  const loudness = loudnessOfBlocks(facts.flatMap((fact) => fact?.powers ?? []))
  const peaks = facts.flatMap((fact) => fact?.truePeakDbtp ?? [])
  return {
    loudnessLufs: Number.isFinite(loudness) ? Math.round(loudness * 10) / 10 : null,
    truePeakDbtp: peaks.length > 0 ? Math.max(...peaks) : null,
  }
}

function firstManifest(lecture: Lecture, edition: EditionPlan, captions: ReturnType<typeof captionFiles>): EditionManifest {
  const found = checks(lecture).filter((check) => check.level !== 'note')
  return {
    title: edition.title,
    author: lecture.exportSettings.author,
    language: edition.language,
    date: new Date().toISOString(),
    lengthSamples: edition.lengthSamples,
    chapters: edition.slides.map((slide, i) => ({
      title: slide.title,
      altText: slide.altText,
      ...(slide.section ? { section: slide.section } : {}),
      startSamples: slide.startSamples,
      lengthSamples: slide.lengthSamples,
      picture: `slide-${i + 1}.webp`,
      slideId: slide.slideId,
      fingerprint: slideFingerprint(slide, slideCaptions(lecture, slide.slideId)),
      loudnessLufs: keptTake(lecture.slides.find((s) => s.id === slide.slideId)!)?.clip?.figures.loudnessLufs ?? null,
      ...(slide.questions ? { questions: slide.questions } : {}),
      bookmarks: slide.bookmarks.map((b) => ({ title: b.title, startSamples: slide.startSamples + b.atSamples })),
    })),
    burnedIn: lecture.exportSettings.burnedIn,
    settings: settingsFingerprint(lecture),
    captions: captions.map(({ language, label, name }) => ({ language, label, file: name })),
    passed: holding(lecture, found),
    checks: found.map((check) => check.finding),
  }
}

/** Videos and sounds, joined into files in a folder. @returns their names, contents and paths */
async function joinAll(
  context: AppContext,
  ingredients: Ingredients,
  folder: string,
  lend: Lend,
  report: (share: number, stage: Message) => void,
  signal: AbortSignal,
) {
  const { edition, manifest, captions, segments, wanted, lecture } = ingredients
  const { media } = context
  const pathOf = (recipe: SegmentRecipe) => lend(segments.get(recipe.key)!.file)
  const made: { name: string; path: string; contentType: string }[] = []
  const opusForm = wanted.forms.find((form) => form.sound.codec === 'opus')
  const opus = opusForm ? { path: join(folder, 'sound.webm'), kilobits: opusForm.sound.kilobits } : null
  const mp3 = lecture.exportSettings.mp3
    ? { path: join(folder, 'sound.mp3'), chapters: await writeChapters(folder, manifest) }
    : null
  // the whole sound, then each kind of video: its pictures, and its captions and chapters
  const steps = (opus || mp3 ? 2 : 0) + 2 * wanted.forms.length
  let step = 0
  if (opus || mp3) {
    const tell = (done: number) => report((2 * done) / edition.slides.length / steps, message('Joining the sound'))
    step = 2
    await wholeSound(context, edition, { opus, mp3 }, tell, signal)
  }
  if (mp3) made.push({ name: 'sound.mp3', path: mp3.path, contentType: 'audio/mpeg' })

  const joinedSound = async (form: SoundForm) => {
    const out = join(folder, `sound-${form.channels}-${form.kilobits}.aac`)
    const recipes = soundsFor(wanted, form)!
    const sounds = await Promise.all(recipes.map(pathOf))
    const slides = edition.slides.map(({ lengthSamples }, i) => ({ sound: sounds[i]!, lengthSamples }))
    if (!existsSync(out)) await joinSound(slides, out, signal)
    return out
  }
  const alone = join(folder, 'sound.m4a')
  const soundOnly = await joinedSound(soundOnlyForm(lecture.exportSettings))
  for (const form of wanted.forms) {
    report(step++ / steps, message('Joining {file}', { file: form.file }))
    const out = join(folder, form.file)
    const pictures = join(folder, 'pictures')
    const videos = await Promise.all(wanted.videos.get(form)!.map(pathOf))
    await muxPictures(
      edition.slides.map((slide, i) => ({ ...slide, video: videos[i]! })),
      form,
      pictures,
      signal,
    )
    report(step++ / steps, message('Captions and chapters of {file}', { file: form.file }))
    const sound = form.sound.codec === 'opus' ? opus!.path : await joinedSound(form.sound)
    const sameSound = sound === soundOnly && !existsSync(alone)
    const files = { pictures, sound, out, alone: sameSound ? alone : null, folder }
    await addMetadata(media, files, form.container, manifest, captions, signal)
    await rm(pictures)
    made.push({ name: form.file, path: out, contentType: `video/${form.container}` })
  }
  if (!existsSync(alone)) await addSoundMetadata(media, { sound: soundOnly, out: alone, folder }, manifest, signal)
  made.push({ name: 'sound.m4a', path: alone, contentType: 'audio/mp4' })

  const first = edition.slides[0]!.pictures.slice(0, 1)
  const [picture] = await finishedPictures(lend, first, null, lecture.exportSettings.crest, wanted.forms[0]!, folder)
  const poster = join(folder, 'poster.jpg')
  await sharp(picture)
    .flatten({ background: 'white' })
    .resize({ ...POSTER, fit: 'contain', background: 'black' })
    .jpeg({ quality: 80, mozjpeg: true })
    .toFile(poster)
  made.push({ name: 'poster.jpg', path: poster, contentType: 'image/jpeg' })
  return made
}

export const publish: JobDefinition<'publish'>['run'] = async ({ lectureId }, context, report, signal) => {
  const { store } = context
  const lecture = await tidiedLecture(lectureId, context, report, signal)
  const edition = plan(lecture)
  const expected = await estimates(context, lecture)
  // both copies of a video, and what is still to be encoded
  const needed = expected.reduce((sum, video) => sum + 2.2 * video.bytes, 0)
  const left = await spaceLeft(context, needed)
  if (left < 0) throw tooFull(needed, left)

  const wanted = wantedSegments(edition.slides, lecture.exportSettings)
  const folder = store.scratchPath('.edition')
  try {
    const recipes = allRecipes(wanted)
    const tell = (done: number, all: number) => report((done / all) * SEGMENTS_SHARE, message('Pictures and sound'))
    const segments = await makeSegments(context, recipes, tell, signal)
    const captions = captionFiles(lecture)
    const manifest: EditionManifest = {
      ...firstManifest(lecture, edition, captions),
      ...soundFigures(wanted.sounds[0]!.recipes, segments),
    }
    await mkdir(folder)
    const ingredients = { lecture, edition, manifest, captions, segments, wanted }
    const joining = (share: number, stage: Message) => report(SEGMENTS_SHARE + (0.96 - SEGMENTS_SHARE) * share, stage)
    const made = await store.withLocalFiles((lend) => joinAll(context, ingredients, folder, lend, joining, signal))

    report(0.97, message('Keeping the files'))
    const files: EditionFile[] = []
    for (const { name, path, contentType } of made) {
      const kept = await store.adopt(path)
      files.push({ name, file: kept.name, bytes: kept.bytes, contentType })
    }
    const keepText = async (name: string, text: string, contentType: string) => {
      const bytes = Buffer.from(text)
      files.push({ name, file: await store.put(bytes), bytes: bytes.length, contentType })
    }
    const texts = [...editionTexts(manifest, captions), ...chapterFiles(lecture)]
    for (const { name, text, contentType } of texts) await keepText(name, text, contentType)
    for (const [i, slide] of edition.slides.entries())
      files.push({ name: manifest.chapters[i]!.picture, file: slide.thumbnail, bytes: 0, contentType: 'image/webp' })
    manifest.videos = wanted.forms.map(({ preset, file, width, height, container }) => {
      const { bytes } = files.find((f) => f.name === file)!
      return { preset, file, width, height, bytes, contentType: `video/${container}` }
    })
    manifest.files = files.map(({ name, file, bytes }) => ({ name, bytes, sha256: file }))
    await keepText('manifest.json', JSON.stringify(publicManifest(manifest), null, 2), 'application/json')
    signal.throwIfAborted()
    const id = randomUUID()
    return { editionId: id, number: await keepEdition(context, lectureId, id, manifest, files) }
  } catch (error) {
    if (!isDiskFull(error)) throw error
    throw tooFull(needed, Math.min(-1e6, await spaceLeft(context, needed)))
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}
