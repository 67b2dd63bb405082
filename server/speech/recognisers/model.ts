/**
 * A recogniser by a neural model that somebody has put into the data folder, in ONNX form. It runs by the library sherpa-onnx-node, which is
 * no part of the app: it is installed beside the models when one is wanted.
 */
import { existsSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { basename, dirname, join } from 'node:path'
import { z } from 'zod'
import { fromInt16 } from '#core/audio/signal/pcm.ts'
import type { HeardWord, Probe } from '#core/captions/recognised/recogniser.ts'
import { message } from '#core/words/say.ts'
import { sha256Of } from '#server/storage/file-hash.ts'
import { answerProbe, answerWords, calledWith, runRecogniser } from './called.ts'
import { bytesOfPiece, secondsOf, speechPieces } from './speech-pieces.ts'
import { type Tokens, wordsOfTokens } from './words-of-tokens.ts'

const RUNTIME = 'sherpa-onnx-node'
const RATE = 16_000

/** `model.json` beside the files, where they are not an encoder, a decoder and a joiner. */
const Described = z.object({
  languages: z.array(z.string()).nullable().default(null),
  /** As the library's documentation has it; paths begin at the folder. */
  modelConfig: z.record(z.string(), z.unknown()).nullable().default(null),
})

interface Stream {
  acceptWaveform(sound: { sampleRate: number; samples: Float32Array }): void
}
interface Runtime {
  OfflineRecognizer: new (
    config: object,
  ) => { createStream(): Stream; decode(stream: Stream): void; getResult(stream: Stream): Tokens }
}

/** The library, from beside the models. */
function loadRuntime(model: string): Runtime | null {
  try {
    return createRequire(join(dirname(model), 'models.js'))(RUNTIME) as Runtime
  } catch {
    return null
  }
}

/** Paths in a description begin at the model's folder. */
function withPaths(value: unknown, folder: string): unknown {
  if (typeof value === 'string' && existsSync(join(folder, value))) return join(folder, value)
  if (typeof value !== 'object' || value === null) return value
  return Object.fromEntries(Object.entries(value).map(([key, inner]) => [key, withPaths(inner, folder)]))
}

/** @returns null when the files are not all there */
function modelConfigOf(folder: string): { config: object | null; languages: string[] | null } {
  const files = readdirSync(folder)
  const described = files.includes('model.json')
    ? Described.parse(JSON.parse(readFileSync(join(folder, 'model.json'), 'utf8')))
    : Described.parse({})
  const { languages, modelConfig } = described
  const named = (part: string) => files.find((file) => file.includes(part) && file.endsWith('.onnx'))
  const [encoder, decoder, joiner] = ['encoder', 'decoder', 'joiner'].map(named)
  if (!files.includes('tokens.txt')) return { config: null, languages }
  if (modelConfig) return { config: { tokens: 'tokens.txt', ...modelConfig }, languages }
  return {
    config: encoder && decoder && joiner ? { tokens: 'tokens.txt', transducer: { encoder, decoder, joiner } } : null,
    languages,
  }
}

/** Beside the files: a large one is read once, and again when it has changed. */
const HASHES = '.hashes.json'

/** Names, sizes and hashes of the files it hears by. */
async function describedFiles(folder: string): Promise<Probe['files']> {
  const path = join(folder, HASHES)
  const known: Record<string, string> = existsSync(path) ? JSON.parse(readFileSync(path, 'utf8')) : {}
  const files: Probe['files'] = []
  const next: Record<string, string> = {}
  for (const name of readdirSync(folder).filter((file) => /\.(onnx|txt)$/.test(file))) {
    const { size, mtimeMs } = statSync(join(folder, name))
    const key = `${name} ${size} ${mtimeMs}`
    next[key] = known[key] ?? (await sha256Of(join(folder, name)))
    files.push({ name, bytes: size, sha256: next[key] })
  }
  try {
    if (JSON.stringify(next) !== JSON.stringify(known)) writeFileSync(path, JSON.stringify(next))
  } catch {
    // a folder that cannot be written is read again each time
  }
  return files
}

async function listen() {
  const { isProbe, sound, context, model } = calledWith(process.argv.slice(2))
  const described = (() => {
    try {
      return modelConfigOf(model)
    } catch {
      return { config: null, languages: null }
    }
  })()
  const runtime = loadRuntime(model)
  if (isProbe) {
    const missing = !described.config
      ? message('Its files are not whole: tokens.txt and either an encoder, a decoder and a joiner, or a model.json are needed.')
          .id
      : !runtime
        ? message('The library that runs models is missing. In the models folder, run: npm install sherpa-onnx-node').id
        : ''
    return answerProbe({
      name: basename(model),
      languages: described.languages,
      isReady: missing === '',
      missing,
      files: await describedFiles(model),
    })
  }
  if (!described.config || !runtime) throw new Error('the model cannot be run')
  const recogniser = new runtime.OfflineRecognizer({
    featConfig: { sampleRate: RATE, featureDim: 80 },
    modelConfig: { ...(withPaths(described.config, model) as object), numThreads: 2, provider: 'cpu', debug: 0 },
  })
  const wav = readFileSync(sound)
  const words: HeardWord[] = []
  for (const piece of speechPieces(context.stretches, secondsOf(wav))) {
    const stream = recogniser.createStream()
    const bytes = bytesOfPiece(wav, piece)
    const samples = new Int16Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength))
    stream.acceptWaveform({ sampleRate: RATE, samples: fromInt16(samples) })
    recogniser.decode(stream)
    words.push(...wordsOfTokens(recogniser.getResult(stream), piece))
  }
  answerWords(words)
}

await runRecogniser(listen)
