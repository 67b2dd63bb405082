/** What comes many times a second (level, sound), told to whoever wants it without a render of the page around it. */
import type { Level } from './recorder.ts'

export interface Feed<T> {
  tell(what: T): void
  /** @returns a function that ends listening */
  listen(heard: (what: T) => void): () => void
}

/** The level of the microphone, twenty times a second. */
export type LevelFeed = Feed<Level>
/** What is recorded as it comes: mono, 48 kHz. */
export type SoundFeed = Feed<Float32Array>

export function keepFeed<T>(): Feed<T> {
  const listeners = new Set<(what: T) => void>()
  return {
    tell(what) {
      for (const listener of listeners) listener(what)
    },
    listen(heard) {
      listeners.add(heard)
      return () => listeners.delete(heard)
    },
  }
}
