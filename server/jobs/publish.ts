/** Makes an edition: encodes what is not encoded yet, joins, and keeps the result under the next number. */
import { randomBytes, randomUUID } from 'node:crypto'
import { mkdir, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { eq, max } from 'drizzle-orm'
import { cuesOnLecture } from '#core/captions/place-cues.ts'
import { publishedTracks } from '#core/captions/published-tracks.ts'
import { writeSubRip } from '#core/captions/subrip.ts'
import { writeWebVtt } from '#core/captions/webvtt/write.ts'
import { checks } from '#core/edition/checks.ts'
import { plan, slideCaptions, slideFingerprint } from '#core/edition/plan.ts'
import { keptTake, type Lecture } from '#core/lecture.ts'
import { type EditionManifest, editionFiles, editions, links } from '#server/db/schema.ts'
import { readLecture } from '#server/lectures/read.ts'
import { addMetadata, type CaptionFile, chaptersVtt } from '#server/publish/metadata.ts'
import { type MuxSlide, muxSlides } from '#server/publish/mux.ts'
import { soundPart, videoPart } from '#server/publish/parts.ts'
import type { Tools } from '#server/tools.ts'
import { alignTake } from './align-take.ts'
import type { Report } from './queue.ts'
import { tidyTake } from './tidy-take.ts'

/** Shares of the progress bar; measured on the demo lecture with nothing encoded before. */
const PARTS_SHARE = 0.9
const JOINED = 0.95

interface EditionFile {
  name: string
  file: string
  bytes: number
  contentType: string
}

/** The lecture with every kept take tidied and its captions timed: one recorded a moment ago may still be in the queue. */
async function tidiedLecture(lectureId: string, tools: Tools, report: Report, signal: AbortSignal): Promise<Lecture> {
  const lecture = await readLecture(tools.db.read, lectureId)
  for (const [i, slide] of lecture.slides.entries()) {
    const take = keptTake(slide)
    if (!take || slide.hidden) continue
    report(0, `Looking at slide ${i + 1}`)
    if (take.clip === null) await tidyTake({ takeId: take.id }, tools, () => {}, signal)
    // returns at once where the captions are timed already
    await alignTake({ slideId: slide.id }, tools, () => {}, signal)
  }
  return readLecture(tools.db.read, lectureId)
}

function captionFiles(lecture: Lecture): CaptionFile[] {
  return publishedTracks(lecture).map((track) => ({
    language: track.language,
    label: new Intl.DisplayNames([track.language], { type: 'language' }).of(track.language) ?? track.language,
    name: `captions.${track.language}.vtt`,
    vtt: writeWebVtt(cuesOnLecture(lecture, track.cues)),
    srt: writeSubRip(cuesOnLecture(lecture, track.cues)),
  }))
}

/** Gives the edition its number and makes it visible, in one step. The first edition of a lecture gets a link as well. */
async function keepEdition(
  { db, events }: Tools,
  lectureId: string,
  id: string,
  manifest: EditionManifest,
  files: EditionFile[],
): Promise<number> {
  const number = await db.write(async (tx) => {
    const [last] = await tx
      .select({ number: max(editions.number) })
      .from(editions)
      .where(eq(editions.lectureId, lectureId))
    const next = (last?.number ?? 0) + 1
    await tx.insert(editions).values({ id, lectureId, number: next, createdAt: Date.now(), manifest })
    await tx.insert(editionFiles).values(files.map((file) => ({ editionId: id, ...file })))
    const known = await tx.select().from(links).where(eq(links.lectureId, lectureId))
    if (known.length === 0)
      await tx.insert(links).values({ token: newToken(), lectureId, name: 'First link', createdAt: Date.now() })
    return next
  })
  events.tell({ type: 'lecture', lectureId })
  return number
}

/** 128 random bits, as they stand in a watch address. */
export const newToken = () => randomBytes(16).toString('base64url')

export async function publish({ lectureId }: { lectureId: string }, tools: Tools, report: Report, signal: AbortSignal) {
  const { store, media } = tools
  const lecture = await tidiedLecture(lectureId, tools, report, signal)
  const edition = plan(lecture)
  const slides: MuxSlide[] = []
  for (const [i, slide] of edition.slides.entries()) {
    report((i / edition.slides.length) * PARTS_SHARE, `Slide ${i + 1} of ${edition.slides.length}`)
    const video = await videoPart(tools, slide, signal)
    const sound = await soundPart(tools, slide, signal)
    slides.push({ ...slide, video: store.path(video), sound: store.path(sound) })
  }
  const captions = captionFiles(lecture)
  const folder = store.scratchPath('.edition')
  await mkdir(folder)
  try {
    report(PARTS_SHARE, 'Joining')
    const joined = join(folder, 'joined.mp4')
    await muxSlides(slides, joined, signal)
    report(JOINED, 'Adding chapters and captions')
    const video = join(folder, 'video.mp4')
    await addMetadata(media, joined, video, folder, edition, captions, signal)
    signal.throwIfAborted()

    const files: EditionFile[] = []
    const kept = await store.adopt(video)
    files.push({ name: 'video.mp4', file: kept.name, bytes: kept.bytes, contentType: 'video/mp4' })
    const keepText = async (name: string, text: string, contentType: string) => {
      const bytes = Buffer.from(text)
      files.push({ name, file: await store.put(bytes), bytes: bytes.length, contentType })
    }
    for (const track of captions) {
      await keepText(track.name, track.vtt, 'text/vtt; charset=utf-8')
      await keepText(track.name.replace(/vtt$/, 'srt'), track.srt, 'application/x-subrip; charset=utf-8')
    }
    await keepText('chapters.vtt', chaptersVtt(edition), 'text/vtt; charset=utf-8')
    const manifest: EditionManifest = {
      title: edition.title,
      language: edition.language,
      lengthSamples: edition.lengthSamples,
      chapters: edition.slides.map((slide, i) => ({
        title: slide.title,
        altText: slide.altText,
        startSamples: slide.startSamples,
        lengthSamples: slide.lengthSamples,
        picture: `slide-${i + 1}.webp`,
        slideId: slide.slideId,
        fingerprint: slideFingerprint(slide, slideCaptions(lecture, slide.slideId)),
        loudnessLufs: keptTake(lecture.slides.find((s) => s.id === slide.slideId)!)?.clip?.figures.loudnessLufs ?? null,
      })),
      captions: captions.map(({ language, label, name }) => ({ language, label, file: name })),
      checks: checks(lecture)
        .filter((check) => check.level !== 'note')
        .map((check) => check.finding),
    }
    for (const [i, slide] of edition.slides.entries()) {
      files.push({ name: manifest.chapters[i]!.picture, file: slide.thumbnail, bytes: 0, contentType: 'image/webp' })
    }
    await keepText('manifest.json', JSON.stringify(manifest, null, 2), 'application/json')
    signal.throwIfAborted()
    const id = randomUUID()
    return { editionId: id, number: await keepEdition(tools, lectureId, id, manifest, files) }
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}
