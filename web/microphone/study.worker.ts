/** Judges a sample sentence off the page. */
import { expose } from 'comlink'
import { tidyFresh } from '#core/audio/render/render.ts'
import { fromInt16 } from '#core/audio/signal/pcm.ts'
import { type MicrophoneStudy, studyMicrophone } from '#core/recording/microphone-check.ts'
import { voiceModelLoaded } from '#web/data/voice-model.ts'

const worker = {
  async study(samples: Int16Array): Promise<MicrophoneStudy> {
    await voiceModelLoaded()
    const floats = fromInt16(samples)
    return studyMicrophone(floats, tidyFresh(floats).analysis)
  },
}

export type StudyWorker = typeof worker
expose(worker)
