/** Screens and cameras to choose from, and how each is opened. */
import { message, say } from '#core/words/say.ts'
import type { OpenPictures } from './open-pictures.ts'
import { openPracticeCamera } from './practice-camera.ts'
import { openPracticeScreen } from './practice-screen.ts'

export const PRACTICE_CAMERA = 'practice-camera'

export interface Camera {
  id: string
  name: string
}

/** A refusal or fault as a sentence that says what to do; `said` is null where somebody only thought better of it. */
export class PictureProblem extends Error {
  readonly said: string | null
  constructor(said: string | null) {
    super(said ?? 'nothing chosen')
    this.said = said
  }
}

/** @returns cameras with their names, the practice camera last. Before the browser was allowed to use one it may name none. */
export async function listCameras(): Promise<Camera[]> {
  const devices = (await navigator.mediaDevices?.enumerateDevices()) ?? []
  const inputs = devices.filter((d) => d.kind === 'videoinput')
  return [
    ...inputs.map((d, i) => ({ id: d.deviceId, name: d.label || say('Camera {number}', { number: i + 1 }) })),
    { id: PRACTICE_CAMERA, name: say('Practice camera') },
  ]
}

const nameOf = (error: unknown) => (error instanceof DOMException ? error.name : '')

function cameraProblem(error: unknown): PictureProblem {
  const name = nameOf(error)
  if (name === 'NotAllowedError' || name === 'SecurityError')
    return new PictureProblem(
      say('The browser does not let this page use the camera. Allow it beside the address bar, or record without it.'),
    )
  if (name === 'NotFoundError' || name === 'OverconstrainedError')
    return new PictureProblem(say('This camera is not connected. Plug it in, or choose another one.'))
  return new PictureProblem(
    say('The camera does not answer; another program may be using it. Close that, or choose another one.'),
  )
}

const opened = (stream: MediaStream, name: string): OpenPictures => ({
  track: stream.getVideoTracks()[0]!,
  stream,
  name,
  isPractice: false,
  close: () => {
    for (const track of stream.getTracks()) track.stop()
  },
})

/** @throws PictureProblem */
export async function openCamera({ id, name }: Camera): Promise<OpenPictures> {
  if (id === PRACTICE_CAMERA) return openPracticeCamera(name)
  if (!navigator.mediaDevices)
    throw new PictureProblem(say('This browser gives no camera here. Open Tidy Lectern at localhost, or over https.'))
  const size = { width: { ideal: 1280 }, height: { ideal: 720 }, frameRate: { ideal: 30, max: 30 } }
  const video = id === '' ? size : { deviceId: { exact: id }, ...size }
  try {
    return opened(await navigator.mediaDevices.getUserMedia({ video }), name)
  } catch (error) {
    throw cameraProblem(error)
  }
}

export const NO_SCREEN = message('This browser cannot share a screen here. Use a current browser, at localhost or over https.')

/** Lets somebody choose a screen, a window or a tab. @throws PictureProblem */
export async function openScreen(): Promise<OpenPictures> {
  if (!navigator.mediaDevices?.getDisplayMedia) throw new PictureProblem(say(NO_SCREEN))
  try {
    const video = { frameRate: { max: 30 }, width: { max: 1920 }, height: { max: 1080 } }
    const stream = await navigator.mediaDevices.getDisplayMedia({ video, audio: false })
    return opened(stream, stream.getVideoTracks()[0]!.label)
  } catch (error) {
    // who closes the browser's own question has thought better of it
    if (nameOf(error) === 'NotAllowedError') throw new PictureProblem(null)
    throw new PictureProblem(say('The screen could not be shared. Choose another window or screen, or try again.'))
  }
}

export const openPractice = (): OpenPictures => openPracticeScreen(say('Practice screen'))
