/** The recognisers that could be asked: the program an administrator has named, models in the data folder, and what Debian brings. */
import { constants } from 'node:fs'
import { access, readdir } from 'node:fs/promises'
import { join } from 'node:path'
import { Probe } from '#core/captions/recognised/recogniser.ts'
import { message } from '#core/words/say.ts'
import type { Config } from '#server/config/config.ts'
import { runBounded } from './bounded-process.ts'

/** A program with the arguments that come before all others. */
export interface RecogniserProgram {
  id: string
  program: string
  args: string[]
}

export interface KnownRecogniser extends RecogniserProgram, Probe {
  /** It answered `--probe`, and so takes all that the protocol has; else it is given a language and a sound. */
  knowsProtocol: boolean
}

/** A large model is read once for its hash. */
const PROBE_BOUNDS = { seconds: 120, memoryBytes: 2e9, outputBytes: 1e6 }
/** So long what was answered is believed: a package or a model may be added meanwhile. */
const KEPT_MS = 30_000

const FROM_SOURCE = import.meta.filename.endsWith('.ts')
/** Our own ones are programs beside the server's. */
const own = (id: string, ...args: string[]): RecogniserProgram => ({
  id,
  program: process.execPath,
  args: [join(import.meta.dirname, FROM_SOURCE ? '../../../dist/server' : '.', `recogniser-${id}.js`), ...args],
})

/** Models are folders in this folder. */
export const modelsFolder = ({ dataFolder }: Pick<Config, 'dataFolder'>) => join(dataFolder, 'models')

async function modelFolders(config: Config): Promise<string[]> {
  const found = await readdir(modelsFolder(config), { withFileTypes: true }).catch(() => [])
  return found
    .filter((entry) => entry.isDirectory() && !entry.name.startsWith('.') && entry.name !== 'node_modules')
    .map(({ name }) => name)
    .sort()
}

async function candidates(config: Config): Promise<RecogniserProgram[]> {
  const models = await modelFolders(config)
  return [
    ...(config.recogniser === 'practice' ? [own('practice')] : []),
    ...(config.recogniser && config.recogniser !== 'practice' ? [{ id: 'program', program: config.recogniser, args: [] }] : []),
    ...models.map((name) => ({ ...own('model', '--model', join(modelsFolder(config), name)), id: `model ${name}` })),
    own('pocketsphinx'),
  ]
}

/** What a program says of itself; one that says nothing is one of those that are only given a language and a sound. */
async function probed(candidate: RecogniserProgram): Promise<KnownRecogniser> {
  const unknown = {
    ...candidate,
    ...Probe.parse({ protocol: 1, name: candidate.program, languages: null, isReady: true }),
    knowsProtocol: false,
  }
  const isThere =
    !candidate.program.includes('/') ||
    (await access(candidate.program, constants.X_OK).then(
      () => true,
      () => false,
    ))
  if (!isThere) return { ...unknown, isReady: false, missing: message('The program is not there, or may not be run.').id }
  try {
    const ended = await runBounded(candidate.program, [...candidate.args, '--probe'], PROBE_BOUNDS)
    if (ended.over !== null || ended.code !== 0) return unknown
    const said = Probe.safeParse(JSON.parse(ended.stdout.toString('utf8')))
    return said.success ? { ...candidate, ...said.data, knowsProtocol: true } : unknown
  } catch {
    return unknown
  }
}

/** One of ours, asked what it is. */
export const ownRecogniser = (id: string) => probed(own(id))

const kept = new Map<string, { at: number; known: Promise<KnownRecogniser[]> }>()

/** @returns those there are, the ones to ask first before the others; not all of them are ready */
export function knownRecognisers(config: Config): Promise<KnownRecogniser[]> {
  const key = `${config.dataFolder} ${config.recogniser}`
  const before = kept.get(key)
  if (before && Date.now() - before.at < KEPT_MS) return before.known
  const known = candidates(config).then((all) => Promise.all(all.map(probed)))
  kept.set(key, { at: Date.now(), known })
  known.catch(() => kept.delete(key))
  return known
}
