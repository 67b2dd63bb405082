/** What is cleaned in the tests' own process needs the voice model, as in every thread. */
import { loadVoiceModel } from '#server/workers/load-voice-model.ts'

loadVoiceModel()
