/** `lectern make`: a folder with a deck, sounds and scripts becomes a published video, with nothing else to do. */

import { randomUUID } from 'node:crypto'
import { copyFile, mkdtemp, readdir, readFile, realpath, rename, rm, stat, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { basename, dirname, join, resolve } from 'node:path'
import { parseArgs } from 'node:util'
import { desc, eq } from 'drizzle-orm'
import { scriptsOf } from '#core/edition/timings.ts'
import { ImportedLecture } from '#core/jobs/job.ts'
import { Language } from '#core/language-tag.ts'
import { languageName } from '#core/words/language-name.ts'
import { unpacked } from '#core/words/packed.ts'
import { message, say } from '#core/words/say.ts'
import { openApp } from '#server/app.ts'
import { openDatabase } from '#server/db/database.ts'
import { editionFiles, editions, jobs, lectures } from '#server/db/schema.ts'
import { attachCaptions } from '#server/domain/caption-tracks/caption-files.ts'
import { changeSlide } from '#server/domain/lectures/edit.ts'
import { readLecture } from '#server/domain/lectures/read.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import type { Workers } from '#server/workers/pool.ts'
import { readyOutput, writeOutput } from './io/output.ts'
import { orUsage, Usage, usageOf } from './io/usage.ts'

const USAGE = usageOf('lectern make FOLDER -o OUT.mp4 [--lang TAG] [--title TITLE] [--allow-unmatched] [--no-cache] [--json]')
const SCRIPT = /^script\.(md|txt)$/i
const CAPTIONS = /\.(vtt|srt)$/i
const LOOK_AGAIN_MS = 100

type App = Awaited<ReturnType<typeof openApp>>
type Tell = (stage: string, progress: number) => void

/** A bar that is drawn over itself on a terminal; a line of JSON a step with `--json`; nothing in a pipe. */
function teller(json: boolean): Tell {
  let last = ''
  return (stage, progress) => {
    const line = `${stage} ${Math.floor(progress * 100)}`
    if (line === last) return
    last = line
    if (json) process.stdout.write(`${JSON.stringify({ stage, progress: Number(progress.toFixed(3)) })}\n`)
    else if (process.stderr.isTTY) {
      const done = Math.round(progress * 30)
      process.stderr.write(`\r\x1b[2K[${'#'.repeat(done)}${'-'.repeat(30 - done)}] ${stage}`)
    }
  }
}

/** Until a job has ended. @returns what it made @throws UserFacingError when it failed */
async function ended(app: App, id: string, tell: Tell, from: number, to: number): Promise<unknown> {
  for (;;) {
    const [job] = await app.context.db.read.select().from(jobs).where(eq(jobs.id, id))
    if (job?.state === 'done') return job.result
    if (job?.state === 'failed' || job?.state === 'cancelled')
      throw new UserFacingError(job.error === null ? message('This was cancelled.') : unpacked(job.error), 500)
    tell(job?.stage ? say(unpacked(job.stage)) : 'Beginning', from + (to - from) * (job?.progress ?? 0))
    await new Promise((done) => setTimeout(done, LOOK_AGAIN_MS))
  }
}

/** Until no job is left. */
async function settled(app: App, tell: Tell, progress: number) {
  for (;;) {
    const rows = await app.context.db.read.select().from(jobs)
    const failed = rows.find((job) => job.state === 'failed')
    if (failed)
      throw new UserFacingError(failed.error === null ? message('A part of the work failed.') : unpacked(failed.error), 500)
    const open = rows.filter((job) => job.state === 'queued' || job.state === 'running')
    if (open.length === 0) return
    tell(`Tidying, ${open.length} to go`, progress)
    await new Promise((done) => setTimeout(done, LOOK_AGAIN_MS))
  }
}

/** What an earlier run wrote into a folder: its manifest says so. Those of an early version lie under its name. */
async function writtenBefore(folder: string, names: readonly string[]): Promise<Set<string>> {
  const written = new Set<string>()
  for (const name of names.filter((n) => /\.json$/i.test(n))) {
    const said: unknown = await readFile(join(folder, name), 'utf8')
      .then(JSON.parse)
      .catch(() => null)
    const { lengthSamples, chapters, outputs } = (said ?? {}) as {
      lengthSamples?: unknown
      chapters?: unknown
      outputs?: unknown
    }
    if (typeof lengthSamples !== 'number' || !Array.isArray(chapters)) continue
    const base = name.replace(/\.json$/i, '')
    for (const output of Array.isArray(outputs) ? outputs : [`${base}.mp4`, `${base}.vtt`]) written.add(String(output))
    written.add(name)
  }
  return written
}

/** @param output whatever this run writes is nothing that it reads */
async function filesOf(folder: string, output: string) {
  const found = await stat(folder).catch(() => null)
  if (!found?.isDirectory()) throw new UserFacingError(message('There is no folder “{folder}”. Check its name.', { folder }), 404)
  const all = (await readdir(folder, { withFileTypes: true }))
    .filter((f) => f.isFile() && !f.name.startsWith('.'))
    .map((f) => f.name)
  const ours = await writtenBefore(folder, all)
  if ((await realpath(dirname(output))) === (await realpath(folder))) {
    const base = basename(output).replace(/\.mp4$/i, '')
    const taken = all.find((name) => [`${base}.mp4`, `${base}.json`].includes(name) && !ours.has(name))
    if (taken)
      throw new UserFacingError(
        message(
          '“{taken}” lies in the folder already, and no earlier run wrote it. Name another file for the video, or move it away.',
          { taken },
        ),
        422,
      )
  }
  const names = all.filter((name) => !ours.has(name))
  const script = names.find((name) => SCRIPT.test(name))
  const captions = names.filter((name) => CAPTIONS.test(name))
  return { script, captions, deck: names.filter((name) => name !== script && !captions.includes(name)) }
}

/** Scripts go to the slides of their titles where all are named, else in order. */
async function giveScripts(app: App, lectureId: string, text: string) {
  const { slides } = await readLecture(app.context.db.read, lectureId)
  const scripts = scriptsOf(text)
  if (scripts.length > slides.length)
    throw new UserFacingError(
      message('The script has {scripts} parts for {slides} slides. Take a heading away, or add a slide.', {
        scripts: scripts.length,
        slides: slides.length,
      }),
      422,
    )
  const byTitle = scripts.map((part) =>
    slides.findIndex((slide) => part.title !== null && slide.title.toLowerCase() === part.title.toLowerCase()),
  )
  const named = byTitle.every((i) => i >= 0) && new Set(byTitle).size === byTitle.length
  for (const [i, { script }] of scripts.entries())
    await changeSlide(app.context.db, slides[named ? byTitle[i]! : i]!.id, { script })
}

/** The language in a caption file's name, such as `talk.fr.vtt`. */
const languageOf = (name: string, usual: string) => {
  const tag = /\.([A-Za-z]{2,3}(?:-[A-Za-z0-9]{1,8})*)\.(?:vtt|srt)$/i.exec(name)?.[1]
  return tag && Language.safeParse(tag).success ? tag : usual
}

/** Jobs of a run that was stopped, and the videos of runs before: what was encoded for them is found again by its content. */
async function forgetEarlierRuns(dataFolder: string) {
  const db = await openDatabase(dataFolder)
  await db.write(async (tx) => {
    await tx.delete(jobs)
    await tx.delete(editions)
  })
  db.close()
}

/** What was asked for. @throws Usage */
function optionsOf(args: string[]) {
  const { values, positionals } = orUsage(
    args,
    () =>
      parseArgs({
        args,
        allowPositionals: true,
        options: {
          output: { type: 'string', short: 'o' },
          lang: { type: 'string' },
          title: { type: 'string' },
          'allow-unmatched': { type: 'boolean', default: false },
          'no-cache': { type: 'boolean', default: false },
          json: { type: 'boolean', default: false },
        },
      }),
    USAGE,
  )
  const [folder, ...more] = positionals
  const { output } = values
  if (!folder || more.length > 0 || !output || !/\.mp4$/i.test(output)) throw new Usage(USAGE)
  if (values.lang !== undefined && !Language.safeParse(values.lang).success)
    throw new Usage(`${say('A language is written like en or pt-BR.')}\n${USAGE}`)
  return { ...values, folder, output }
}
type Options = ReturnType<typeof optionsOf>
type Given = Awaited<ReturnType<typeof filesOf>>

const configIn = (dataFolder: string) => ({
  dataFolder,
  mode: 'alone' as const,
  store: null,
  queue: null,
  publicUrl: null,
  identityProvider: null,
  mail: null,
  port: 0,
  host: '127.0.0.1',
  publicHosts: [],
  appHosts: [],
  proxies: [],
  ffmpeg: process.env.LECTERN_FFMPEG ?? 'ffmpeg',
  recogniser: null,
  demoFolder: '',
  log: 'text' as const,
  prepareAfterMs: null,
  webFolder: join(import.meta.dirname, '../web'),
})

/** Makes a lecture of what the folder holds. @returns its id, and names of files for which there was no slide, and of those shown as films */
async function importFolder(app: App, given: Given, options: Options, tell: Tell) {
  const { folder, lang } = options
  const { db, store } = app.context
  const files = await Promise.all(
    given.deck.map(async (name) => ({ name, file: await store.put(await readFile(join(folder, name))) })),
  )
  const lectureId = randomUUID()
  const asked = { lectureId, language: 'en', chosenLanguage: lang ?? null, files }
  const imported = await ended(app, (await app.queue.add('import', null, asked)).id, tell, 0, 0.2)
  const { unmatched, films } = ImportedLecture.parse(imported)
  if (unmatched.length > 0) {
    const named = unmatched.map((name) => `“${name}”`).join(', ')
    if (!options['allow-unmatched']) {
      if (options.json) process.stdout.write(`${JSON.stringify({ output: null, unmatched })}\n`)
      throw new UserFacingError(
        message(
          'For {named} there is no slide. Name each by its slide (“slide 2.wav”), take it away, or say --allow-unmatched to leave it out.',
          { named },
        ),
        422,
      )
    }
    process.stderr.write(`${say('Left out, for there is no slide: {named}', { named })}\n`)
  }
  if (given.script) await giveScripts(app, lectureId, await readFile(join(folder, given.script), 'utf8'))
  if (options.title) await db.write((tx) => tx.update(lectures).set({ title: options.title! }).where(eq(lectures.id, lectureId)))
  await settled(app, tell, 0.3)
  const { language } = await readLecture(db.read, lectureId)
  for (const name of given.captions) {
    const wanted = { language: languageOf(name, language), kind: 'captions' as const, slideId: null }
    await attachCaptions(db, lectureId, name, await readFile(join(folder, name)), wanted)
  }
  return { lectureId, language, unmatched, films }
}

/** Writes the newest edition's video, captions and manifest. @returns the manifest, and what was written */
async function writeEdition(app: App, lectureId: string, given: Given, { folder, output }: Options) {
  const { db, store } = app.context
  const [edition] = await db.read
    .select()
    .from(editions)
    .where(eq(editions.lectureId, lectureId))
    .orderBy(desc(editions.number))
    .limit(1)
  const kept = await db.read.select().from(editionFiles).where(eq(editionFiles.editionId, edition!.id))
  const base = output.replace(/\.mp4$/i, '')
  const outputs: string[] = []
  const inputs = new Set(given.captions.map((name) => resolve(folder, name)))
  // written beside and renamed: an interrupted run leaves no half file under a wanted name
  const give = async (name: string, to: string) => {
    const row = kept.find((file) => file.name === name)
    // captions that were given lie there already
    if (!row || inputs.has(resolve(to))) return
    await store.withLocalFile(row.file, (path) => copyFile(path, `${to}.part`))
    await rename(`${to}.part`, to)
    outputs.push(to)
  }
  await give('video.mp4', output)
  for (const [i, track] of edition!.manifest.captions.entries())
    await give(track.file, i === 0 ? `${base}.vtt` : `${base}.${track.language}.vtt`)
  const { manifest } = edition!
  outputs.push(`${base}.json`)
  const told = { ...manifest, outputs: outputs.map((path) => basename(path)) }
  await writeOutput(`${base}.json`, (beside) => writeFile(beside, `${JSON.stringify(told, null, 2)}\n`))
  return { manifest, outputs }
}

export async function make(args: string[], workers?: Workers) {
  const options = optionsOf(args)
  const { folder, output, json } = options
  const tell = teller(json)
  await readyOutput(output, [])
  const given = await filesOf(folder, output)
  if (given.deck.length === 0)
    throw new UserFacingError(
      message('“{folder}” holds no deck. Put a PDF, a presentation file or pictures into it.', { folder }),
      422,
    )
  const isKept = !options['no-cache']
  const dataFolder = isKept ? join(resolve(folder), '.lectern') : await mkdtemp(join(tmpdir(), 'lectern-make-'))
  await forgetEarlierRuns(dataFolder)
  const app = await openApp(configIn(dataFolder), workers)
  try {
    const { lectureId, language, unmatched, films } = await importFolder(app, given, options, tell)
    const publication = await app.queue.add('publish', lectureId, { lectureId })
    await ended(app, publication.id, tell, 0.4, 1)
    const { manifest, outputs } = await writeEdition(app, lectureId, given, options)
    // the next run makes its own lecture of the same files; what they were encoded to stays
    await app.context.db.write((tx) => tx.update(lectures).set({ deletedAt: Date.now() }).where(eq(lectures.id, lectureId)))

    const result = {
      output,
      language,
      files: outputs,
      slides: manifest.chapters.length,
      seconds: manifest.lengthSamples / 48_000,
      loudnessLufs: manifest.loudnessLufs ?? null,
      checks: manifest.checks,
      unmatched,
      films,
    }
    if (process.stderr.isTTY && !json) process.stderr.write('\r\x1b[2K')
    if (json) process.stdout.write(`${JSON.stringify(result)}\n`)
    else {
      process.stdout.write(
        `${say('{output}: {slides, plural, one {# slide} other {# slides}} in {language}, {time}', { output, slides: result.slides, language: languageName(language), time: `${Math.floor(result.seconds / 60)}:${String(Math.floor(result.seconds % 60)).padStart(2, '0')}` })}\n`,
      )
      if (films.length > 0)
        process.stdout.write(
          `${say('Shown as films on their slides: {names}. For what is only your voice, bring a sound without a picture.', { names: films.join(', ') })}\n`,
        )
      for (const check of manifest.checks) process.stdout.write(`${say('To look at: {check}', { check })}\n`)
    }
  } finally {
    await app.close()
    if (!isKept) await rm(dataFolder, { recursive: true, force: true })
  }
}
