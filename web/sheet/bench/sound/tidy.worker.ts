/** Heavy computation of the bench, off the page: a stretch of a take is studied once, then cleaned at any strength at once. */

import { expose, transfer } from 'comlink'
import { analyseForDenoise, applyDenoise, type CleaningStudy } from '#core/audio/denoise/suppress.ts'
import { removeHum } from '#core/audio/repair/hum.ts'
import { fromInt16 } from '#core/audio/signal/pcm.ts'
import { voiceModelLoaded } from '#web/data/voice-model.ts'

let studied: { url: string; samples: number; study: CleaningStudy } | null = null

const worker = {
  /**
   * @param url of 16-bit samples of the stretch
   * @param humHz mains hum to take away first; null for none
   * @returns the stretch, cleaned
   */
  async clean(url: string, humHz: number | null, strength: number, highPassHz: number | null): Promise<Float32Array> {
    const name = `${url} ${humHz}`
    if (studied?.url !== name) {
      await voiceModelLoaded()
      const response = await fetch(url)
      if (!response.ok) throw new Error(`${url} answered ${response.status}`)
      const samples = fromInt16(new Int16Array(await response.arrayBuffer()))
      const study = analyseForDenoise(humHz === null ? samples : removeHum(samples, humHz), null)
      studied = { url: name, samples: samples.length, study }
    }
    const cleaned = applyDenoise(studied.study, strength, highPassHz, studied.samples)
    return transfer(cleaned, [cleaned.buffer])
  },
}

export type TidyWorker = typeof worker
expose(worker)
