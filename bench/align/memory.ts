/** How much memory timing the words of five minutes takes: measured in a process of its own, which has nothing else to do. */
import { spawnSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { toInt16 } from '#core/audio/signal/pcm.ts'
import { bytesOf } from '#server/media/sound-files.ts'
import { openSynthesiser } from '#server/speech/synthesiser.ts'
import { seekWords } from '#server/workers/worker.ts'
import { makeCase } from './corpus.ts'

const MINUTES = 5
const LANGUAGE = 'en'

/** @returns the most that cleaning and aligning, as a thread of the server does it, added to a process that held the voice and the take, MB */
export function alignMemory(seed: number): number {
  const folder = mkdtempSync(join(tmpdir(), 'lectern-memory-'))
  const [sound, script] = [join(folder, 'sound.s16'), join(folder, 'script.json')]
  try {
    const samples = new Float32Array(MINUTES * 60 * 48_000)
    const sentences: string[] = []
    for (let at = 0, n = 0; at < samples.length; n++) {
      const made = makeCase(LANGUAGE, 'plain', 1000 * seed + 700 + n, null)
      samples.set(made.samples.subarray(0, samples.length - at), at)
      at += made.samples.length
      sentences.push(...made.script)
    }
    writeFileSync(sound, bytesOf(toInt16(samples)))
    writeFileSync(script, JSON.stringify(sentences))
    const told = spawnSync(process.execPath, ['--import', 'tsx', import.meta.filename, sound, script], { encoding: 'utf8' })
    if (told.status !== 0) throw new Error(told.stderr)
    return Number(told.stdout)
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}

if (process.argv[1] === import.meta.filename) {
  const [sound, script] = process.argv.slice(2)
  const synthesiser = await openSynthesiser(LANGUAGE)
  synthesiser!.speak('One sentence first.')
  // not copied: what the reading leaves behind must not count as there before
  const bytes = readFileSync(sound!)
  const samples = new Int16Array(bytes.buffer, bytes.byteOffset, bytes.length / 2)
  const sentences = JSON.parse(readFileSync(script!, 'utf8'))
  const recipe = { cleaning: 0.6, highPassHz: 70, hum: true, clicks: true, roomTone: null }
  const before = process.memoryUsage().rss
  await seekWords({ samples, sentences, language: LANGUAGE, recipe, humHz: null })
  // kilobytes, the most there ever was
  process.stdout.write(String((process.resourceUsage().maxRSS * 1024 - before) / 2 ** 20))
}
