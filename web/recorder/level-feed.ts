/** The level of the microphone, told twenty times a second to whoever draws it, without a render of the page around it. */
import type { Level } from './recorder.ts'

export interface LevelFeed {
  tell(level: Level): void
  /** @returns a function that ends listening */
  listen(heard: (level: Level) => void): () => void
}

export function keepLevels(): LevelFeed {
  const listeners = new Set<(level: Level) => void>()
  return {
    tell(level) {
      for (const listener of listeners) listener(level)
    },
    listen(heard) {
      listeners.add(heard)
      return () => listeners.delete(heard)
    },
  }
}
