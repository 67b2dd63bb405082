/** Gives a worker of the page the voice model: one file, which the browser keeps for all of them. */

import url from '#core/audio/denoise/voice-model.bin?url'
import { setVoiceModel } from '#core/audio/denoise/voice-model.ts'

let loading: Promise<void> | null = null

async function load() {
  const response = await fetch(url)
  if (!response.ok) throw new Error(`${url} answered ${response.status}`)
  setVoiceModel(new Uint8Array(await response.arrayBuffer()))
}

/** @throws Error when it cannot be had now; asked for again it is tried again */
export function voiceModelLoaded(): Promise<void> {
  loading ??= load().catch((error) => {
    loading = null
    throw error
  })
  return loading
}
