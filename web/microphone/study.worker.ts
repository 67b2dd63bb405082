/** Judges a sample sentence off the page. */
import { expose } from 'comlink'
import { type MicrophoneStudy, studyMicrophone } from '#core/audio/microphone-check.ts'
import { fromInt16 } from '#core/audio/pcm.ts'
import { tidyFresh } from '#core/audio/render.ts'

const worker = {
  study(samples: Int16Array): MicrophoneStudy {
    const floats = fromInt16(samples)
    return studyMicrophone(floats, tidyFresh(floats).analysis)
  },
}

export type StudyWorker = typeof worker
expose(worker)
