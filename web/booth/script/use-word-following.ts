/** Where the speaker is in a script, by the words that are heard; where they cannot be told nothing is said. */
import { type Remote, transfer, wrap } from 'comlink'
import { useEffect, useRef } from 'react'
import type { SoundFeed } from '#web/recorder/feed.ts'
import type { FollowWorker } from './follow.worker.ts'
import type { ScriptPlace } from './use-following.ts'

/** Typing comes to rest before a script is spoken anew. */
const SETTLED_MS = 800

/**
 * @param script what is read out; '' for nothing
 * @param onPlace told where the speaker is; null while that cannot be told
 * @returns a way to say from which sentence the speaker goes on
 */
export function useWordFollowing(
  sound: SoundFeed,
  script: string,
  language: string,
  recording: boolean,
  onPlace: (place: ScriptPlace | null) => void,
): (sentence: number) => void {
  const worker = useRef<Remote<FollowWorker>>(null)
  const reference = useRef<Promise<ArrayBuffer | null>>(Promise.resolve(null))
  const tell = useRef(onPlace)
  tell.current = onPlace
  useEffect(() => {
    if (script.trim() === '') {
      reference.current = Promise.resolve(null)
      return
    }
    const timer = setTimeout(() => {
      reference.current = fetch('/api/scripts/spoken', {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ script, language }),
      }).then(
        async (answer) => (answer.status === 200 ? answer.arrayBuffer() : null),
        // away: the rests alone are followed
        () => null,
      )
    }, SETTLED_MS)
    return () => clearTimeout(timer)
  }, [script, language])
  useEffect(() => {
    if (!recording) return
    let isOver = false
    let own: { thread: Worker; remote: Remote<FollowWorker> } | null = null
    const ready = reference.current.then(async (bytes) => {
      if (!bytes || isOver) return
      const thread = new Worker(new URL('./follow.worker.ts', import.meta.url), { type: 'module' })
      own = { thread, remote: wrap<FollowWorker>(thread) }
      worker.current = own.remote
      await own.remote.begin(bytes.slice(0))
    })
    const unlisten = sound.listen((samples) => {
      const copy = samples.slice()
      void ready.then(async () => {
        if (!own || isOver) return
        const place = await own.remote.hear(transfer(copy, [copy.buffer]))
        if (!isOver) tell.current(place)
      })
    })
    return () => {
      isOver = true
      unlisten()
      own?.thread.terminate()
      worker.current = null
      tell.current(null)
    }
  }, [sound, recording])
  return (sentence) => void worker.current?.goTo(sentence)
}
