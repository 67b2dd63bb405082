/// <reference types="dom-mediacapture-transform" />
/** From an open screen or camera to pieces that are kept, for as long as a take wants its pictures. */
import type { FootageKind } from '#core/model/moving/footage.ts'
import { chunkStore, storeWithRetry } from '#web/recorder/kept/chunk-store.ts'
import type { FootageMessage, FootageRequest } from './footage.worker.ts'
import type { OpenPictures } from './open-pictures.ts'

/** The browser may let go pictures that wait to be read. */
const MOST_WAITING = 30
/** Who has not answered for so long is gone. */
const GONE_MS = 10_000

/** Whether this browser lets the pictures of a track be read and encoded. */
export const canRecordPictures = (): boolean => 'MediaStreamTrackProcessor' in window && 'VideoEncoder' in window

export class FootageRecorder {
  readonly kind: FootageKind
  readonly #isPractice: boolean
  readonly #worker: Worker
  #takeId: string | null = null
  #current: { id: string; pieces: number } | null = null
  /** Everything that is to be kept, one after the other. */
  #keeping: Promise<unknown> = Promise.resolve()
  readonly #waiting = new Map<number, () => void>()
  #asked = 0
  #begun = 0
  /** Told of pictures that were left out, and of what went wrong. */
  onTrouble: (trouble: { leftOut: number } | { failed: string }) => void = () => {}

  constructor({ track, isPractice }: Pick<OpenPictures, 'track' | 'isPractice'>, kind: FootageKind) {
    this.kind = kind
    this.#isPractice = isPractice
    this.#worker = new Worker(new URL('./footage.worker.ts', import.meta.url), { type: 'module' })
    this.#worker.onmessage = ({ data }: { data: FootageMessage }) => this.#hear(data)
    const { readable } = new MediaStreamTrackProcessor({ track, maxBufferSize: MOST_WAITING })
    this.#worker.postMessage({ read: readable, kind } satisfies FootageRequest, [readable])
  }

  /** From now on pictures belong to a take, wherever that stands. */
  begin(takeId: string) {
    this.#takeId = takeId
    this.#begun++
    this.#post({ ask: 'begin' })
  }

  /** @param captured samples of the take, and when the last of them came */
  hear(captured: { at: number; when: number }) {
    if (this.#takeId) this.#post({ heard: captured })
  }

  rest(at: number) {
    this.#post({ ask: 'rest', at })
  }

  goOn() {
    this.#post({ ask: 'go on' })
  }

  /** Its pictures belong to no take any more. @param at the last sample with which they are seen @returns when all of them are kept */
  async end(at: number) {
    if (!this.#takeId) return
    const [id, begun] = [this.#asked++, this.#begun]
    await new Promise<void>((resolve) => {
      this.#waiting.set(id, resolve)
      setTimeout(resolve, GONE_MS)
      this.#post({ ask: 'end', at, id })
    })
    // it may have begun anew meanwhile
    if (begun === this.#begun) this.#takeId = null
    await this.#keeping
  }

  close() {
    this.#worker.terminate()
  }

  #post(message: FootageRequest) {
    this.#worker.postMessage(message)
  }

  #keep(work: () => Promise<unknown>) {
    this.#keeping = this.#keeping.then(() => storeWithRetry(work))
  }

  #hear(message: FootageMessage) {
    if ('failed' in message) return this.onTrouble(message)
    if ('begun' in message) {
      const takeId = this.#takeId
      if (!takeId) return
      const id = crypto.randomUUID()
      this.#current = { id, pieces: 0 }
      this.#keep(() =>
        chunkStore.keepFootage({
          id,
          takeId,
          kind: this.kind,
          isPractice: this.#isPractice,
          ...message.begun,
          startedAt: Date.now(),
          pieces: null,
        }),
      )
    } else if ('piece' in message) {
      const current = this.#current
      if (!current) return
      const number = current.pieces++
      this.#keep(() => chunkStore.keepPiece(current.id, number, message.piece))
    } else {
      const ended = this.#current
      this.#current = null
      if (ended) this.#keep(() => chunkStore.endFootage(ended.id, ended.pieces))
      if (message.leftOut > 0) this.onTrouble({ leftOut: message.leftOut })
      if (message.ended === null) return
      this.#waiting.get(message.ended)?.()
      this.#waiting.delete(message.ended)
    }
  }
}
