/** Every state of a session at the microphone, and what each event makes of it. */
import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import { MicrophoneProblem } from './input/microphones.ts'
import type { PictureDevices } from './pictures/pictures.ts'
import type { Input } from './recorder.ts'
import { RecordingSession, type SessionDevices, type SessionState } from './recording-session.ts'
import type { UploadReport } from './upload.ts'

const DESK = { id: 'desk', name: 'Desk microphone' }
const LAPEL = { id: 'lapel', name: 'Lapel microphone' }
const PRACTICE = { id: 'practice-quiet-room', name: 'Practice microphone' }
const SLIDE_BY_SLIDE = { isContinuous: false, countdown: 0 }
const STRAIGHT_THROUGH = { isContinuous: true, countdown: 0 }

/** A promise that ends when it is told to. */
function later<T>() {
  let end!: (value: T) => void
  const promise = new Promise<T>((resolve) => {
    end = resolve
  })
  return { promise, end }
}

function fakeRecording(takeId: string) {
  const stopped = later<void>()
  const runUp = later<void>()
  const recording = {
    takeId,
    recorded: 3,
    paused: 0,
    resumed: 0,
    film: () => {},
    endFilming: async () => {},
    stopped,
    runUp,
    seconds: () => recording.recorded,
    mark: async (telling: object, pressed: number) => ({ ...telling, at: pressed }),
    pause: async () => void recording.paused++,
    resume: async () => void recording.resumed++,
    pickUp: () => runUp.promise,
    stop: async () => {
      await stopped.promise
      return { sound: new Blob([takeId]), seconds: recording.recorded, marks: [] }
    },
  }
  return recording
}

function fakeInput(name: string) {
  const made: ReturnType<typeof fakeRecording>[] = []
  const input = {
    microphoneName: name,
    isOpen: true,
    made,
    uploads: [] as ((report: UploadReport) => void)[],
    targets: [] as object[],
    refusal: null as Error | null,
    beginning: Promise.resolve(),
    onLevel: () => {},
    onHeard: () => {},
    onLost: () => {},
    async record(target: object, told: (report: UploadReport) => void) {
      await input.beginning
      if (input.refusal) throw input.refusal
      input.targets.push(target)
      input.uploads.push(told)
      made.push(fakeRecording(`${name} ${made.length + 1}`))
      return made.at(-1)!
    },
    sample: async () => new Int16Array(),
    async close() {
      input.isOpen = false
    },
  }
  return input
}

class FakeBrowser implements SessionDevices {
  // nobody chooses a camera or a screen here: `pictures/pictures.test.ts` does
  readonly pictures = { listCameras: async () => [] } as unknown as PictureDevices
  readonly inputs: ReturnType<typeof fakeInput>[] = []
  asked = 0
  remembered: string | null = null
  readonly released: string[] = []
  readonly complaints: string[] = []
  refusal: Error | null = null
  opening = Promise.resolve()
  /** Names of those that were asked for. */
  readonly wanted: string[] = []
  readonly microphones: { id: string; name: string }[]
  constructor(microphones = [DESK, LAPEL, PRACTICE]) {
    this.microphones = microphones
  }
  list = async () => this.microphones
  ask = async () => void this.asked++
  async open({ name }: { name: string }) {
    this.wanted.push(name)
    await this.opening
    if (this.refusal) throw this.refusal
    this.inputs.push(fakeInput(name))
    return this.inputs.at(-1)! as unknown as Input
  }
  chosen = () => this.remembered
  remember(id: string) {
    this.remembered = id
  }
  address = (sound: Blob) => `blob:${sound.size}`
  release = (address: string) => void this.released.push(address)
  complain = (sentence: string) => void this.complaints.push(sentence)
}

async function readySession(devices = new FakeBrowser()) {
  const session = new RecordingSession('lecture', 'a', devices)
  const states: SessionState[] = []
  session.subscribe(() => {
    const { state } = session.snapshot()
    if (states.at(-1) !== state) states.push(state)
  })
  await session.start()
  return { session, devices, states, input: devices.inputs[0]! }
}

/** Recording, with what is recorded. */
async function recordingSession(how = SLIDE_BY_SLIDE) {
  const opened = await readySession()
  await opened.session.toggle(how)
  return { ...opened, recording: opened.input.made[0]! }
}

beforeEach(() => void vi.useFakeTimers())
afterEach(() => void vi.useRealTimers())

test('it opens the first device, never the practice microphone, and is ready', async () => {
  const { session, states, devices } = await readySession()
  expect(states).toEqual(['opening', 'ready'])
  expect(session.snapshot()).toMatchObject({ microphone: 'desk', problem: null, microphones: devices.microphones })
  expect(devices.asked).toBe(0)
})

test('the one that was chosen last time is opened', async () => {
  const devices = new FakeBrowser()
  devices.remembered = 'lapel'
  expect((await readySession(devices)).session.snapshot().microphone).toBe('lapel')
})

test('where none is listed it asks for permission, and says that none was found', async () => {
  const { session, devices } = await readySession(new FakeBrowser([PRACTICE]))
  expect(devices.asked).toBe(1)
  expect(session.snapshot().state).toBe('no microphone')
  expect(session.snapshot().problem).toMatch(/No microphone was found/)
})

test('a microphone that cannot be opened is told, and nothing can be recorded until another one is chosen', async () => {
  const devices = new FakeBrowser()
  devices.refusal = new MicrophoneProblem({ id: 'Not connected.' })
  const { session } = await readySession(devices)
  expect(session.snapshot()).toMatchObject({ state: 'no microphone', problem: 'Not connected.' })
  await session.toggle(SLIDE_BY_SLIDE)
  expect(session.snapshot().state).toBe('no microphone')
  devices.refusal = null
  session.choose('lapel')
  await vi.waitFor(() => expect(session.snapshot()).toMatchObject({ state: 'ready', microphone: 'lapel', problem: null }))
  expect(devices.remembered).toBe('lapel')
})

test('a list of inputs that cannot be had is told as well', async () => {
  const devices = new FakeBrowser()
  devices.list = () => Promise.reject(new Error('No list.'))
  expect((await readySession(devices)).session.snapshot()).toMatchObject({ state: 'no microphone', problem: 'No list.' })
})

test('choosing another one closes the first; one that opens too late is closed again', async () => {
  const { session, devices, input } = await readySession()
  const slow = later<void>()
  devices.opening = slow.promise
  session.choose('lapel')
  await vi.waitFor(() => expect(devices.wanted).toContain('Lapel microphone'))
  expect(input.isOpen).toBe(false)
  session.choose('desk')
  slow.end()
  await vi.waitFor(() => expect(devices.inputs).toHaveLength(3))
  await vi.waitFor(() => expect(session.snapshot()).toMatchObject({ state: 'ready', microphone: 'desk' }))
  expect(devices.inputs.map((one) => [one.microphoneName, one.isOpen])).toEqual([
    ['Desk microphone', false],
    ['Lapel microphone', false],
    ['Desk microphone', true],
  ])
})

test('it records the slide in front, tells the time, and what it gave can be heard', async () => {
  const { session, states, input, recording } = await recordingSession()
  expect(input.targets).toEqual([{ slideId: 'a', lectureId: 'lecture', isContinuous: false, voice: null }])
  expect(session.snapshot()).toMatchObject({ state: 'recording', takeId: recording.takeId, seconds: 0 })
  recording.recorded = 7
  vi.advanceTimersByTime(100)
  expect(session.snapshot().seconds).toBe(7)
  const stopping = session.toggle(SLIDE_BY_SLIDE)
  expect(session.snapshot().state).toBe('stopping')
  recording.stopped.end()
  await stopping
  expect(session.snapshot()).toMatchObject({ state: 'ready', seconds: 7, continuousTakeId: null, heard: 'blob:17' })
  expect(states).toEqual(['opening', 'ready', 'recording', 'stopping', 'ready'])
  recording.recorded = 99
  vi.advanceTimersByTime(1000)
  expect(session.snapshot().seconds).toBe(7)
})

test('it counts down, and a second press takes the count back', async () => {
  const { session, input } = await readySession()
  const begun = session.toggle({ isContinuous: false, countdown: 3 })
  expect(session.snapshot()).toMatchObject({ state: 'counting', count: 3 })
  await vi.advanceTimersByTimeAsync(1000)
  expect(session.snapshot().count).toBe(2)
  await session.toggle(SLIDE_BY_SLIDE)
  await begun
  expect(session.snapshot().state).toBe('ready')
  await vi.advanceTimersByTimeAsync(5000)
  expect(input.made).toHaveLength(0)
  void session.toggle({ isContinuous: false, countdown: 2 })
  await vi.advanceTimersByTimeAsync(2000)
  expect(session.snapshot().state).toBe('recording')
})

test('rest and go on', async () => {
  const { session, recording } = await recordingSession()
  await session.pauseOrResume()
  expect(session.snapshot().state).toBe('paused')
  expect(recording).toMatchObject({ paused: 1, resumed: 0 })
  await session.pauseOrResume()
  expect(session.snapshot().state).toBe('recording')
  expect(recording).toMatchObject({ paused: 1, resumed: 1 })
  // a press while resting ends the recording
  await session.pauseOrResume()
  recording.stopped.end()
  await session.toggle(SLIDE_BY_SLIDE)
  expect(session.snapshot().state).toBe('ready')
})

test('a pick-up goes back and records on, from a rest as well; one that is stopped meanwhile does not', async () => {
  const { session, recording } = await recordingSession()
  await session.pauseOrResume()
  const picked = session.pickUp()
  expect(session.snapshot().state).toBe('going back')
  // there is nothing to rest from, and no second way back
  await session.pauseOrResume()
  await session.pickUp()
  expect(session.snapshot().state).toBe('going back')
  const stopping = session.toggle(SLIDE_BY_SLIDE)
  recording.runUp.end()
  await picked
  expect(session.snapshot().state).toBe('stopping')
  recording.stopped.end()
  await stopping
  expect(session.snapshot().state).toBe('ready')
})

test('a pick-up that ends records on', async () => {
  const { session, recording } = await recordingSession()
  const picked = session.pickUp()
  recording.runUp.end()
  await picked
  expect(session.snapshot().state).toBe('recording')
})

test('marks are kept in their order, and gone with the next recording', async () => {
  const { session, recording } = await recordingSession()
  await session.mark({ kind: 'wrong' }, 10)
  await session.mark({ kind: 'bookmark' }, 20)
  expect(session.snapshot().marks.map((mark) => mark.kind)).toEqual(['wrong', 'bookmark'])
  recording.stopped.end()
  await session.toggle(SLIDE_BY_SLIDE)
  expect(session.snapshot().marks).toHaveLength(2)
  await session.mark({ kind: 'wrong' }, 30)
  expect(session.snapshot().marks).toHaveLength(2)
  await session.toggle(SLIDE_BY_SLIDE)
  expect(session.snapshot().marks).toEqual([])
})

test('another slide begins with a clean clock; straight through, what was told goes on', async () => {
  const { session, recording, devices } = await recordingSession()
  recording.stopped.end()
  await session.toggle(SLIDE_BY_SLIDE)
  session.showSlide('b')
  expect(session.snapshot()).toMatchObject({ seconds: 0, heard: null, upload: null, marks: [] })
  expect(devices.released).toEqual(['blob:17'])

  const whole = await recordingSession(STRAIGHT_THROUGH)
  await whole.session.mark({ kind: 'slide', slideId: 'b' }, 5)
  vi.advanceTimersByTime(100)
  whole.session.showSlide('b')
  expect(whole.session.snapshot()).toMatchObject({ seconds: 3, marks: [{ kind: 'slide' }] })
  whole.recording.stopped.end()
  await whole.session.toggle(STRAIGHT_THROUGH)
  expect(whole.session.snapshot().continuousTakeId).toBe(whole.recording.takeId)
})

test('the next recording is of the slide that is in front then', async () => {
  const { session, input, recording } = await recordingSession()
  recording.stopped.end()
  await session.toggle(SLIDE_BY_SLIDE)
  session.showSlide('b')
  await session.toggle(SLIDE_BY_SLIDE)
  expect(input.targets.at(-1)).toMatchObject({ slideId: 'b' })
})

test('a microphone that is lost ends the recording with all that was said, and nothing begins by itself after it', async () => {
  const { session, input, recording, devices } = await recordingSession()
  input.onLost()
  expect(session.snapshot().problem).toMatch(/disconnected/)
  recording.stopped.end()
  await vi.waitFor(() => expect(session.snapshot().state).toBe('no microphone'))
  expect(session.snapshot().heard).not.toBeNull()
  expect(input.isOpen).toBe(false)
  session.choose('desk')
  await vi.waitFor(() => expect(session.snapshot().state).toBe('ready'))
  await vi.advanceTimersByTimeAsync(10_000)
  expect(devices.inputs.at(-1)!.made).toEqual([])
})

test('one that is lost while it is counted ends the count', async () => {
  const { session, input } = await readySession()
  void session.toggle({ isContinuous: false, countdown: 3 })
  input.onLost()
  await vi.advanceTimersByTimeAsync(5000)
  expect(session.snapshot().state).toBe('no microphone')
  expect(input.made).toEqual([])
})

test('one that is lost after another was chosen changes nothing', async () => {
  const { session, input, devices } = await readySession()
  session.choose('lapel')
  await vi.waitFor(() => expect(devices.inputs).toHaveLength(2))
  await vi.waitFor(() => expect(session.snapshot().state).toBe('ready'))
  expect(input.isOpen).toBe(false)
  expect(session.snapshot()).toMatchObject({ microphone: 'lapel', problem: null })
})

test('a recording that cannot begin is told, and the key works again', async () => {
  const { session, input, devices } = await readySession()
  input.refusal = new Error('quota')
  await session.toggle(SLIDE_BY_SLIDE)
  input.refusal = new MicrophoneProblem({ id: 'The microphone does not answer.' })
  await session.toggle(SLIDE_BY_SLIDE)
  expect(devices.complaints[0]).toMatch(/cannot store what is recorded/)
  expect(devices.complaints[1]).toBe('The microphone does not answer.')
  input.refusal = null
  await session.toggle(SLIDE_BY_SLIDE)
  expect(session.snapshot().state).toBe('recording')
})

test('a key that is pressed twice before recording has begun begins one recording', async () => {
  const { session, input } = await readySession()
  const begun = later<void>()
  input.beginning = begun.promise
  const presses = [session.toggle(SLIDE_BY_SLIDE), session.toggle(SLIDE_BY_SLIDE)]
  begun.end()
  await Promise.all(presses)
  expect(input.made).toHaveLength(1)
  expect(session.snapshot().state).toBe('recording')
})

test('one that had not begun when the booth was left is ended as soon as it has', async () => {
  const { session, input } = await readySession()
  const begun = later<void>()
  input.beginning = begun.promise
  const press = session.toggle(SLIDE_BY_SLIDE)
  const left = session.end()
  begun.end()
  await vi.waitFor(() => expect(input.made).toHaveLength(1))
  expect(input.isOpen, 'not closed before what was recorded is kept').toBe(true)
  input.made[0]!.stopped.end()
  await Promise.all([press, left])
  expect(session.snapshot()).toMatchObject({ state: 'no microphone', seconds: 3 })
  expect(input.isOpen).toBe(false)
})

test('how far it is sent is told of the last recording; a refusal of an earlier one is said all the same', async () => {
  const { session, input, recording, devices } = await recordingSession()
  input.uploads[0]!({ state: 'sending', sent: 2, problem: null })
  expect(session.snapshot().upload).toMatchObject({ sent: 2 })
  recording.stopped.end()
  await session.toggle(SLIDE_BY_SLIDE)
  await session.toggle(SLIDE_BY_SLIDE)
  expect(session.snapshot().upload).toBeNull()
  input.uploads[0]!({ state: 'sealed', sent: 3, problem: null })
  expect(session.snapshot().upload).toBeNull()
  input.uploads[0]!({ state: 'refused', sent: 3, problem: 'The slide is gone.' })
  expect(devices.complaints).toEqual(['The slide is gone.'])
})

test('at its end the recording is kept and the microphone closed, whatever it was doing', async () => {
  const { session, input, recording, devices } = await recordingSession()
  const ended = session.end()
  recording.stopped.end()
  await ended
  expect(input.isOpen).toBe(false)
  expect(devices.released).toHaveLength(1)

  const counting = await readySession()
  void counting.session.toggle({ isContinuous: false, countdown: 3 })
  await counting.session.end()
  await vi.advanceTimersByTimeAsync(5000)
  expect(counting.input.made).toEqual([])
})
