/** Between the booth and the window of its script: what is shown there, and what is pressed there. */
import { useEffect, useRef } from 'react'
import type { ScriptPlace } from './use-following.ts'

export interface ScriptShown {
  slideId: string
  place: ScriptPlace | null
  /** Points that were spoken about, by their places. */
  ticked: number[]
  state: 'ready' | 'recording' | 'paused' | 'other'
  seconds: number
}

export const SCRIPT_ACTS = ['record', 'rest', 'forward', 'backward'] as const
export type ScriptAct = (typeof SCRIPT_ACTS)[number]

type FromBooth = { kind: 'shown'; shown: ScriptShown } | { kind: 'closed' }
type FromWindow = { kind: 'hello' } | { kind: 'act'; act: ScriptAct } | { kind: 'picked'; at: number }

const channelOf = (lectureId: string) => new BroadcastChannel(`script of ${lectureId}`)

/** The booth's side: tells what is shown, again whenever a window asks. */
export function useScriptSender(
  lectureId: string,
  shown: ScriptShown,
  onAct: (act: ScriptAct) => void,
  onPicked: (at: number) => void,
) {
  const now = useRef({ shown, onAct, onPicked })
  now.current = { shown, onAct, onPicked }
  const channel = useRef<BroadcastChannel>(null)
  useEffect(() => {
    const own = channelOf(lectureId)
    channel.current = own
    own.onmessage = ({ data }: MessageEvent<FromWindow>) => {
      if (data.kind === 'hello') own.postMessage({ kind: 'shown', shown: now.current.shown } satisfies FromBooth)
      else if (data.kind === 'act') now.current.onAct(data.act)
      else if (data.kind === 'picked') now.current.onPicked(data.at)
    }
    const leave = () => own.postMessage({ kind: 'closed' } satisfies FromBooth)
    // a page that is closed, or left for another address, ends nothing by itself
    window.addEventListener('pagehide', leave)
    return () => {
      window.removeEventListener('pagehide', leave)
      leave()
      own.close()
    }
  }, [lectureId])
  const text = JSON.stringify(shown)
  useEffect(() => channel.current?.postMessage({ kind: 'shown', shown: JSON.parse(text) } satisfies FromBooth), [text])
}

/** The window's side. @param onShown told what the booth shows; null when it is closed */
export function useScriptReceiver(lectureId: string, onShown: (shown: ScriptShown | null) => void) {
  const channel = useRef<BroadcastChannel>(null)
  const now = useRef(onShown)
  now.current = onShown
  useEffect(() => {
    const own = channelOf(lectureId)
    channel.current = own
    own.onmessage = ({ data }: MessageEvent<FromBooth>) => {
      if (data.kind === 'shown') now.current(data.shown)
      else if (data.kind === 'closed') now.current(null)
    }
    own.postMessage({ kind: 'hello' } satisfies FromWindow)
    return () => own.close()
  }, [lectureId])
  return (message: FromWindow) => channel.current?.postMessage(message)
}
