/** What a stored file belongs to, in words for whoever looks for a lost one. */
import { eq, or } from 'drizzle-orm'
import { message, say } from '#core/words/say.ts'
import type { Tables } from '#server/db/database.ts'
import { films, footage } from '#server/db/moving-schema.ts'
import { beds, clips, editionFiles, editions, lectures, recordings, slides, steps, takes } from '#server/db/schema.ts'

/** @returns one part of a sentence: the first thing that is found to use it */
export async function whoUses(read: Tables, file: string): Promise<string> {
  const at = { title: lectures.title, place: slides.position }
  const [take] = await read
    .select(at)
    .from(takes)
    .innerJoin(slides, eq(slides.id, takes.slideId))
    .innerJoin(lectures, eq(lectures.id, slides.lectureId))
    .where(or(eq(takes.sound, file), eq(takes.peaks, file), eq(takes.spectrogram, file)))
  const told = ({ title, place }: { title: string; place: number }) => ({ title, slide: place + 1 })
  if (take) return say(message('a recording of slide {slide} of “{title}”', told(take)))
  const [clip] = await read
    .select(at)
    .from(clips)
    .innerJoin(takes, eq(takes.id, clips.takeId))
    .innerJoin(slides, eq(slides.id, takes.slideId))
    .innerJoin(lectures, eq(lectures.id, slides.lectureId))
    .where(or(eq(clips.sound, file), eq(clips.peaks, file)))
  if (clip) return say(message('a tidied sound of slide {slide} of “{title}”, which can be made again', told(clip)))
  const [picture] = await read
    .select(at)
    .from(steps)
    .innerJoin(slides, eq(slides.id, steps.slideId))
    .innerJoin(lectures, eq(lectures.id, slides.lectureId))
    .where(or(eq(steps.picture, file), eq(steps.thumbnail, file)))
  if (picture) return say(message('a picture of slide {slide} of “{title}”', told(picture)))
  const [film] = await read
    .select(at)
    .from(films)
    .innerJoin(steps, eq(steps.id, films.stepId))
    .innerJoin(slides, eq(slides.id, steps.slideId))
    .innerJoin(lectures, eq(lectures.id, slides.lectureId))
    .where(or(eq(films.original, file), eq(films.proxy, file), eq(films.sound, file), eq(films.strip, file)))
  if (film) return say(message('a film of slide {slide} of “{title}”', told(film)))
  const [filmed] = await read
    .select({ title: lectures.title })
    .from(footage)
    .innerJoin(lectures, eq(lectures.id, footage.lectureId))
    .where(or(eq(footage.original, file), eq(footage.proxy, file), eq(footage.strip, file)))
  if (filmed) return say(message('a demonstration or small picture of “{title}”', filmed))
  for (const table of [beds, recordings]) {
    const [sound] = await read
      .select({ title: lectures.title })
      .from(table)
      .innerJoin(lectures, eq(lectures.id, table.lectureId))
      .where(or(eq(table.sound, file), eq(table.peaks, file)))
    if (sound) return say(message('music or a long recording of “{title}”', { title: sound.title }))
  }
  const [edition] = await read
    .select({ title: lectures.title, number: editions.number })
    .from(editionFiles)
    .innerJoin(editions, eq(editions.id, editionFiles.editionId))
    .innerJoin(lectures, eq(lectures.id, editions.lectureId))
    .where(eq(editionFiles.file, file))
  if (edition) return say(message('edition {number} of “{title}”', edition))
  return say(message('something else'))
}
