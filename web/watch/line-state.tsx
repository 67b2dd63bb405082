/** Over the picture, where what is to be played does not come: why, and a way on. */

import { useEffect, useState } from 'react'
import { say } from '#core/words/say.ts'
import type { Source } from '#web/watch/edition/edition.ts'
import type { Playback } from '#web/watch/playback/use-playback.ts'

/** Why the video cannot be had; what is not known yet is said last. */
function useReason(source: Source, failed: boolean): string | null {
  const [reason, setReason] = useState<string | null>(null)
  useEffect(() => {
    setReason(null)
    if (!failed) return
    let current = true
    void source.whyNot().then((sentence) => current && setReason(sentence))
    return () => {
      current = false
    }
  }, [source, failed])
  return reason
}

export function LineState({ source, playback }: { source: Source; playback: Playback }) {
  const { waiting, failed, again } = playback
  const reason = useReason(source, failed)
  useEffect(() => {
    if (!failed) return
    // the line is back
    window.addEventListener('online', again)
    return () => window.removeEventListener('online', again)
  }, [failed, again])
  if (!waiting && !failed) return null
  return (
    <div className="absolute inset-x-0 top-[8%] grid justify-items-center" role="status">
      <div className="grid max-w-[90%] justify-items-center gap-2 rounded-md bg-[#1d2a2eec] px-4 py-3 text-center text-[#f8f5ee]">
        {failed ? (
          <>
            <p>
              {reason ??
                (navigator.onLine
                  ? say('The video cannot be loaded now.')
                  : say('There is no connection. It goes on where you were when it is back.'))}
            </p>
            <button type="button" className="btn btn-sm" onClick={again}>
              {say('Try again')}
            </button>
          </>
        ) : (
          <p>{say('Waiting for the video: the connection is slow.')}</p>
        )}
      </div>
    </div>
  )
}
