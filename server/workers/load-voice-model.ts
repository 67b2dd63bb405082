/** Gives this thread the voice model, from its file beside the code. */
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { setVoiceModel } from '#core/audio/denoise/voice-model.ts'

const FROM_SOURCE = import.meta.filename.endsWith('.ts')

export const loadVoiceModel = () =>
  setVoiceModel(
    readFileSync(join(import.meta.dirname, FROM_SOURCE ? '../../core/audio/denoise/voice-model.bin' : 'voice-model.bin')),
  )
