/** What is filmed beside a recording, whatever happens to screens, cameras and takes meanwhile. */
import { beforeEach, expect, test } from 'vitest'
import type { FootageRecorder } from './footage-recorder.ts'
import type { OpenPictures } from './open-pictures.ts'
import { PictureProblem } from './picture-sources.ts'
import { type PictureDevices, Pictures, type PicturesSnapshot } from './pictures.ts'

/** Tracks, and what is recorded of them. */
class FakeDevices implements PictureDevices {
  readonly cameras = [{ id: 'lid', name: 'Camera in the lid' }]
  readonly opened: { track: EventTarget; isClosed: boolean }[] = []
  readonly recorders: FootageRecorder[] = []
  refusal: Error | null = null
  opening = Promise.resolve()
  asked: string[] = []
  canRecord = () => true
  listCameras = async () => this.cameras
  #open() {
    const pictures = { track: new EventTarget(), isClosed: false, stream: {}, name: 'made', isPractice: false, close: () => {} }
    pictures.close = () => {
      pictures.isClosed = true
    }
    this.opened.push(pictures)
    return pictures as unknown as OpenPictures
  }
  async openCamera({ id }: { id: string }) {
    this.asked.push(id)
    await this.opening
    if (this.refusal) throw this.refusal
    return this.#open()
  }
  async openScreen() {
    this.asked.push('screen')
    await this.opening
    if (this.refusal) throw this.refusal
    return this.#open()
  }
  openPracticeScreen = () => this.#open()
  record = (_: unknown, kind: 'screen' | 'camera') => {
    this.recorders.push({ kind, onTrouble: () => {}, close: () => {} } as unknown as FootageRecorder)
    return this.recorders.at(-1)!
  }
}

/** A take, and what is filmed with it now. */
function take() {
  const filmed = new Set<string>()
  return {
    filmed,
    film: ({ kind }: FootageRecorder) => void filmed.add(kind),
    endFilming: async ({ kind }: FootageRecorder) => void filmed.delete(kind),
  }
}

let devices: FakeDevices
let seen: Partial<PicturesSnapshot>
let pictures: Pictures
beforeEach(() => {
  devices = new FakeDevices()
  seen = {}
  pictures = new Pictures(devices, (change) => Object.assign(seen, change))
})
const settled = () => new Promise((resolve) => setTimeout(resolve))

test('looking which cameras there are asks for none', async () => {
  await pictures.look()
  expect(seen.cameras).toEqual(devices.cameras)
  expect(devices.asked).toEqual([])
})

test('a camera that was chosen is filmed with each take; unplugged, it is said and the take goes on without it', async () => {
  await pictures.chooseCamera('lid')
  const [first, second] = [take(), take()]
  pictures.setRecording(first)
  expect([...first.filmed]).toEqual(['camera'])
  pictures.setRecording(null)
  pictures.setRecording(second)
  expect([...second.filmed]).toEqual(['camera'])
  devices.opened[0]!.track.dispatchEvent(new Event('ended'))
  await settled()
  expect(seen).toMatchObject({ camera: null, problem: expect.stringContaining('your voice goes on') })
  expect([...second.filmed]).toEqual([])
  expect(devices.opened[0]!.isClosed).toBe(true)
})

test('a screen is shown instead of the slide and back, is asked for once, and stays shared until the browser ends it', async () => {
  await pictures.toggleScreen(false)
  expect(seen.screen).toBe('shown')
  const recording = take()
  pictures.setRecording(recording)
  expect([...recording.filmed]).toEqual(['screen'])
  await pictures.toggleScreen(false)
  expect(seen.screen).toBe('shared')
  expect([...recording.filmed]).toEqual([])
  // what is not shown is not filmed with the next take either
  const next = take()
  pictures.setRecording(next)
  expect([...next.filmed]).toEqual([])
  await pictures.toggleScreen(false)
  expect([...next.filmed]).toEqual(['screen'])
  expect(devices.asked).toEqual(['screen'])
  devices.opened[0]!.track.dispatchEvent(new Event('ended'))
  await settled()
  expect(seen).toMatchObject({ screen: 'off', problem: expect.stringContaining('shared no more') })
  expect([...next.filmed]).toEqual([])
})

test('who thinks better of sharing is told nothing; who is refused is told why', async () => {
  devices.refusal = new PictureProblem(null)
  await pictures.toggleScreen(false)
  expect(seen).toMatchObject({ screen: 'off', problem: null })
  devices.refusal = new PictureProblem('Not allowed.')
  await pictures.chooseCamera('lid')
  expect(seen).toMatchObject({ camera: null, problem: 'Not allowed.' })
})

test('a camera that opens after another choice is closed again', async () => {
  let open = () => {}
  devices.opening = new Promise((resolve) => {
    open = resolve
  })
  const first = pictures.chooseCamera('lid')
  await settled()
  await pictures.chooseCamera(null)
  open()
  await first
  expect(devices.opened[0]!.isClosed).toBe(true)
  expect(seen.camera).toBeNull()
})

test('while the browser asks which screen, it is not asked again; one that is chosen after the booth was left is not shared', async () => {
  let open = () => {}
  devices.opening = new Promise((resolve) => {
    open = resolve
  })
  const asking = pictures.toggleScreen(false)
  await pictures.toggleScreen(false)
  expect(devices.asked).toEqual(['screen'])
  await pictures.close()
  open()
  await asking
  expect(devices.opened[0]!.isClosed).toBe(true)
  expect(seen.screen).toBe('off')
})

test('frames that were left out, and a picture that fails, are told', async () => {
  await pictures.chooseCamera('lid')
  devices.recorders[0]!.onTrouble({ leftOut: 3 })
  expect(seen.problem).toMatch(/3 frames were left out/)
  devices.recorders[0]!.onTrouble({ failed: 'no encoder' })
  expect(seen.problem).toMatch(/your voice is/)
})

test('a browser that cannot record pictures says so, and opens nothing', async () => {
  devices.canRecord = () => false
  await pictures.toggleScreen(false)
  await pictures.chooseCamera('lid')
  expect(devices.asked).toEqual([])
  expect(seen).toMatchObject({ camera: null, problem: expect.stringContaining('cannot record pictures') })
})
