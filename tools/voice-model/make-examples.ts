/** Makes recordings and what is learned from them, one after the other, for the process that started this one. */
import { trainingRecording } from '../../bench/tidy/training-rooms.ts'
import { examplesOf } from './examples.ts'

for (let seed = 1; ; seed++)
  await new Promise((done) => process.send!(examplesOf(trainingRecording(seed)), undefined, undefined, done))
