/** How a recogniser of ours is called, and how it answers. */
import { readFileSync } from 'node:fs'
import { parseArgs } from 'node:util'
import { type HeardWord, type Probe, RECOGNISER_PROTOCOL, type RecogniserContext } from '#core/captions/recognised/recogniser.ts'

export interface Called {
  /** Only to say what it is. */
  isProbe: boolean
  language: string
  sound: string
  context: RecogniserContext
  /** Folder of a model. */
  model: string
}

export function calledWith(argv: readonly string[]): Called {
  const { values, positionals } = parseArgs({
    args: [...argv],
    allowPositionals: true,
    options: {
      probe: { type: 'boolean' },
      language: { type: 'string' },
      context: { type: 'string' },
      model: { type: 'string' },
    },
  })
  const given = values.context ? (JSON.parse(readFileSync(values.context, 'utf8')) as RecogniserContext) : null
  return {
    isProbe: values.probe ?? false,
    language: values.language ?? '',
    sound: positionals[0] ?? '',
    context: given ?? { stretches: [], slide: '', lecture: '' },
    model: values.model ?? '',
  }
}

const print = (answer: object): void =>
  void process.stdout.write(`${JSON.stringify({ protocol: RECOGNISER_PROTOCOL, ...answer })}\n`)

export const answerProbe = (probe: Partial<Probe> & Pick<Probe, 'name' | 'languages' | 'isReady'>) => print(probe)
export const answerWords = (words: readonly HeardWord[]) => print({ words })

/** Runs a recogniser of ours: what goes wrong is told in the last line, which is the one that people see. */
export async function runRecogniser(listen: () => Promise<unknown>): Promise<void> {
  try {
    await listen()
  } catch (error) {
    process.stderr.write(`${error instanceof Error ? error.message.trim().replaceAll('\n', ' ') : error}\n`)
    process.exitCode = 1
  }
}
