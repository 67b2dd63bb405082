/** What the web side is told as it happens. */
import { EventEmitter } from 'node:events'
import type { Here } from '#core/people/person.ts'
import type { JobView } from './job-view.ts'

export type LecternEvent =
  | { type: 'job'; job: JobView }
  | { type: 'lecture'; lectureId: string }
  | { type: 'here'; lectureId: string; people: Here[] }

export interface Events {
  tell(event: LecternEvent): void
  /** @returns a function that ends listening */
  listen(heard: (event: LecternEvent) => void): () => void
}

export function makeEvents(): Events {
  const emitter = new EventEmitter()
  emitter.setMaxListeners(0)
  return {
    tell: (event) => void emitter.emit('event', event),
    listen(heard) {
      emitter.on('event', heard)
      return () => void emitter.off('event', heard)
    },
  }
}
