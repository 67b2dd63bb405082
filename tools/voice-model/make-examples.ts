/**
 * Makes what is learned from, one after the other, for the process that started this one, which gives a seed. Voices and rooms are laid together anew each
 * time, and a few of them are new each time: the network, which is large, would learn by heart what it sees often.
 */
import { setImmediate } from 'node:timers/promises'
import { toSamples } from '#core/timing/clocks.ts'
import { random } from '#tests/made/sound.ts'
import { trainingRoom, trainingVoice } from '../../bench/tidy/training-rooms.ts'
import { LENGTH, mixedExample, type StudiedVoice, studyVoice } from './examples.ts'

const ROOM_LENGTH = toSamples(20)
/** So many are there before anything is mixed, and so many are kept. */
const [FIRST_VOICES, MOST_VOICES] = [300, 1200]
const [FIRST_ROOMS, MOST_ROOMS] = [100, 300]
/** For each new voice, and for each new room, so many examples. */
const [A_VOICE, A_ROOM] = [8, 30]

process.on('disconnect', () => process.exit())
const firstSeed = Number(process.argv[2])
const next = random(firstSeed)
const voices: StudiedVoice[] = []
const rooms: Float32Array[] = []
let [voicesMade, roomsMade] = [0, 0]
function addVoice() {
  voices[voicesMade % MOST_VOICES] = studyVoice(trainingVoice(firstSeed + voicesMade, LENGTH))
  voicesMade++
}
function addRoom() {
  rooms[roomsMade % MOST_ROOMS] = trainingRoom(firstSeed + roomsMade, ROOM_LENGTH)
  roomsMade++
}
while (voices.length < FIRST_VOICES || rooms.length < FIRST_ROOMS) {
  if (voices.length < FIRST_VOICES) addVoice()
  if (rooms.length < FIRST_ROOMS) addRoom()
  // that nobody waits any more is heard only between two of them
  await setImmediate()
}
for (let n = 1; ; n++) {
  if (n % A_VOICE === 0) addVoice()
  if (n % A_ROOM === 0) addRoom()
  const example = mixedExample(voices[Math.floor(next() * voices.length)]!, rooms, next)
  await new Promise((done) => process.send!(example, undefined, undefined, done))
}
