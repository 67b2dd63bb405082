/** Where the speaker is in a script, by the words that are heard; where they cannot be told nothing is said. */
import { type Remote, transfer, wrap } from 'comlink'
import { useEffect, useRef } from 'react'
import type { SoundFeed } from '#web/recorder/feed.ts'
import type { FollowWorker } from './follow.worker.ts'
import { spokenScript } from './spoken-scripts.ts'
import type { ScriptPlace } from './use-following.ts'

/** Typing comes to rest before a script is spoken anew. */
const SETTLED_MS = 800
/** Pieces of sound that wait to be followed, twelve a second. */
const MOST_WAITING = 360

/**
 * @param script what is read out; '' for nothing
 * @param onPlace told where the speaker is; null while that cannot be told
 * @param next what is read out after it
 * @returns a way to say from which sentence the speaker goes on
 */
export function useWordFollowing(
  sound: SoundFeed,
  script: string,
  language: string,
  recording: boolean,
  onPlace: (place: ScriptPlace | null) => void,
  next: { script: string; language: string } | null,
): (sentence: number) => void {
  const worker = useRef<Remote<FollowWorker>>(null)
  const reference = useRef<Promise<ArrayBuffer | null>>(Promise.resolve(null))
  const tell = useRef(onPlace)
  tell.current = onPlace
  const isFirst = useRef(true)
  // before the effect that needs it: a slide may be recorded from the moment it is shown
  useEffect(() => {
    let isOver = false
    const wait = isFirst.current ? 0 : SETTLED_MS
    isFirst.current = false
    reference.current =
      wait === 0
        ? spokenScript(script, language)
        : new Promise<void>((resolve) => setTimeout(resolve, wait)).then(() => (isOver ? null : spokenScript(script, language)))
    return () => {
      isOver = true
    }
  }, [script, language])
  const after = next?.script ?? ''
  const languageAfter = next?.language ?? ''
  // once this script is known, that of the slide after: whoever goes on while speaking is followed from the first word there
  useEffect(() => {
    let isOver = false
    void reference.current.then(() => {
      if (!isOver) void spokenScript(after, languageAfter)
    })
    return () => {
      isOver = true
    }
  }, [after, languageAfter])
  // biome-ignore lint/correctness/useExhaustiveDependencies: another script is followed from where it was changed
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
    let waiting = 0
    const unlisten = sound.listen((samples) => {
      // whoever does not answer must not fill the memory of a page that records
      if (waiting >= MOST_WAITING) return
      waiting++
      const copy = samples.slice()
      void ready
        .then(async () => {
          if (!own || isOver) return
          const place = await own.remote.hear(transfer(copy, [copy.buffer]))
          if (!isOver) tell.current(place)
        })
        .finally(() => waiting--)
    })
    return () => {
      isOver = true
      unlisten()
      own?.thread.terminate()
      worker.current = null
      tell.current(null)
    }
  }, [sound, recording, script, language])
  return (sentence) => void worker.current?.goTo(sentence)
}
