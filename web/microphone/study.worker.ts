/** Judges a sample sentence off the page. */
import { expose } from 'comlink'
import { tidyFresh } from '#core/audio/render/render.ts'
import { fromInt16 } from '#core/audio/signal/pcm.ts'
import { type MicrophoneStudy, studyMicrophone } from '#core/recording/microphone-check.ts'

const worker = {
  study(samples: Int16Array): MicrophoneStudy {
    const floats = fromInt16(samples)
    return studyMicrophone(floats, tidyFresh(floats).analysis)
  },
}

export type StudyWorker = typeof worker
expose(worker)
