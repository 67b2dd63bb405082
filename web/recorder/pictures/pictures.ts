/** What is filmed beside a recording: a screen that is shown instead of the slide, and the teacher. Without React. */
import { message, say } from '#core/words/say.ts'
import type { FootageRecorder } from './footage-recorder.ts'
import type { OpenPictures } from './open-pictures.ts'
import { type Camera, PictureProblem } from './picture-sources.ts'

export interface PicturesSnapshot {
  /** `shared`: it is open, and the slide is seen; `shown`: it is seen instead of the slide. */
  screen: 'off' | 'opening' | 'shared' | 'shown'
  /** For a look at it; null where none is open. */
  screenStream: MediaStream | null
  cameras: Camera[]
  /** Id of the one that is open, or being opened. */
  camera: string | null
  cameraStream: MediaStream | null
  /** A sentence, when something is in the way or has ended by itself. */
  problem: string | null
}

/** What of a take that is recorded pictures work with. */
interface Filmed {
  film(pictures: FootageRecorder): void
  endFilming(pictures: FootageRecorder): Promise<void>
}

/** What of the browser pictures work with. */
export interface PictureDevices {
  canRecord(): boolean
  listCameras(): Promise<Camera[]>
  openCamera(camera: Camera): Promise<OpenPictures>
  openScreen(): Promise<OpenPictures>
  openPracticeScreen(): OpenPictures
  record(pictures: OpenPictures, kind: 'screen' | 'camera'): FootageRecorder
}

const CANNOT = message('This browser cannot record pictures. Record without them, or use a current browser that can.')
const SHARE_ENDED = message('The screen is shared no more; what it showed until then is kept, and your voice goes on.')
const CAMERA_LOST = message('The camera was disconnected. What it saw until then is kept, and your voice goes on.')

const problemOf = (error: unknown): { problem: string | null } => {
  if (error instanceof PictureProblem) return { problem: error.said }
  return { problem: (error as Error).message }
}

interface Source {
  pictures: OpenPictures
  recorder: FootageRecorder
}

export class Pictures {
  readonly #devices: PictureDevices
  readonly #changed: (change: Partial<PicturesSnapshot>) => void
  #screen: Source | null = null
  #camera: Source | null = null
  /** The take that is recorded. */
  #recording: Filmed | null = null
  #isShown = false
  #isAsking = false
  #isClosed = false
  /** Counts choices: a camera that opens after another choice is closed again. */
  #choices = 0

  /** @param changed told what of the snapshot has changed */
  constructor(devices: PictureDevices, changed: (change: Partial<PicturesSnapshot>) => void) {
    this.#devices = devices
    this.#changed = changed
  }

  async look() {
    this.#changed({ cameras: await this.#devices.listCameras().catch(() => []) })
  }

  /** A take begins, or ends: what is seen is filmed from then on, or no more. */
  setRecording(recording: Filmed | null) {
    this.#recording = recording
    if (!recording) return
    if (this.#camera) recording.film(this.#camera.recorder)
    if (this.#screen && this.#isShown) recording.film(this.#screen.recorder)
  }

  /** Shows a screen instead of the slide, one that is asked for first where none is shared; or the slide again. */
  async toggleScreen(isPractice: boolean) {
    if (this.#screen) return this.#isShown ? this.showSlide() : this.#showScreen()
    // the browser's own question is open: it is asked once
    if (this.#isAsking) return
    if (!this.#devices.canRecord()) return this.#changed({ problem: say(CANNOT) })
    this.#isAsking = true
    this.#changed({ screen: 'opening', problem: null })
    try {
      const pictures = isPractice ? this.#devices.openPracticeScreen() : await this.#devices.openScreen()
      if (this.#isClosed) return pictures.close()
      this.#screen = this.#use(pictures, 'screen')
      this.#changed({ screenStream: pictures.stream })
      this.#showScreen()
    } catch (error) {
      this.#changed({ screen: 'off', ...problemOf(error) })
    } finally {
      this.#isAsking = false
    }
  }

  #showScreen() {
    if (!this.#screen) return
    this.#isShown = true
    this.#recording?.film(this.#screen.recorder)
    this.#changed({ screen: 'shown', problem: null })
  }

  /** The slide is seen again; the screen stays open. */
  showSlide() {
    if (!this.#screen || !this.#isShown) return
    this.#isShown = false
    void this.#recording?.endFilming(this.#screen.recorder)
    this.#changed({ screen: 'shared' })
  }

  /** @param problem why, where nobody asked for it */
  async endScreen(problem: string | null = null) {
    const screen = this.#screen
    this.#screen = null
    this.#isShown = false
    this.#changed({ screen: 'off', screenStream: null, problem })
    await this.#end(screen)
  }

  /** @param id null for none */
  async chooseCamera(id: string | null) {
    const mine = ++this.#choices
    const before = this.#camera
    this.#camera = null
    this.#changed({ camera: id, cameraStream: null, problem: null })
    await this.#end(before)
    if (id === null || mine !== this.#choices) return
    if (!this.#devices.canRecord()) return this.#changed({ camera: null, problem: say(CANNOT) })
    try {
      const known = await this.#devices.listCameras()
      const pictures = await this.#devices.openCamera(known.find((camera) => camera.id === id) ?? { id, name: '' })
      if (mine !== this.#choices) return pictures.close()
      this.#camera = this.#use(pictures, 'camera')
      this.#recording?.film(this.#camera.recorder)
      // names are known once one was opened, and the one that had none has an id now
      const cameras = await this.#devices.listCameras()
      const named = id === '' ? cameras.find(({ name }) => name === pictures.track.label)?.id : undefined
      this.#changed({ cameraStream: pictures.stream, cameras, camera: named ?? id })
    } catch (error) {
      if (mine === this.#choices) this.#changed({ camera: null, ...problemOf(error) })
    }
  }

  async close() {
    this.#isClosed = true
    this.#choices++
    await Promise.all([this.#end(this.#screen), this.#end(this.#camera)])
    this.#screen = null
    this.#camera = null
    this.#changed({ screen: 'off', screenStream: null, camera: null, cameraStream: null })
  }

  #use(pictures: OpenPictures, kind: 'screen' | 'camera'): Source {
    const recorder = this.#devices.record(pictures, kind)
    recorder.onTrouble = (trouble) =>
      this.#changed({
        problem:
          'failed' in trouble
            ? say('The picture cannot be recorded any more; your voice is. Choose the camera or the screen again.')
            : say(
                'This computer was too slow for the picture: {count, plural, one {# frame was} other {# frames were}} left out.',
                {
                  count: trouble.leftOut,
                },
              ),
      })
    pictures.track.addEventListener('ended', () => {
      // by the browser's own bar, or by pulling the plug
      if (this.#screen?.pictures === pictures) void this.endScreen(say(SHARE_ENDED))
      if (this.#camera?.pictures === pictures) void this.#loseCamera()
    })
    return { pictures, recorder }
  }

  async #loseCamera() {
    const camera = this.#camera
    this.#camera = null
    this.#changed({ camera: null, cameraStream: null, problem: say(CAMERA_LOST) })
    await this.#end(camera)
    await this.look()
  }

  async #end(source: Source | null) {
    if (!source) return
    await this.#recording?.endFilming(source.recorder)
    source.recorder.close()
    source.pictures.close()
  }
}
