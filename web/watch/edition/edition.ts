/** The edition a link or a folder opens, and where its files are. */

import { hc, type InferResponseType } from 'hono/client'
import type { Answered } from '#core/model/question.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { isMessage, say } from '#core/words/say.ts'
import type { WatchApi } from '#server/http/routes/watch/watch.ts'
import { asksNotToBeCounted, WatchCount } from './count-watching.ts'

const client = hc<WatchApi>('/watch')

export type WatchedEdition = InferResponseType<(typeof client)[':token']['edition']['$get'], 200>
export type WatchedChapter = WatchedEdition['chapters'][number]
export type CaptionTrack = WatchedEdition['captions'][number]

/** What the page shows, wherever it comes from. */
export interface Source {
  edition: WatchedEdition
  fileUrl(name: string): string
  /** Text of a caption file. @throws where it cannot be had now */
  captions(track: CaptionTrack): Promise<string>
  /** Why a file cannot be had: a sentence where the link opens this edition no more; null where it does. */
  whyNot(): Promise<string | null>
  /** Whether the link opens a newer edition by now. */
  isOutdated(): Promise<boolean>
  /** Where the page may be kept as a folder; null where it may not. */
  folderUrl: string | null
  /** Its page of its own, for where another page shows this one within itself; null where there is none to go to. */
  pageUrl: string | null
  /** What the place one has come to is kept under in the browser. */
  place: string
  /** Told once, when playing begins. */
  onBegin(): void
  /** Told whenever it is somewhere else, or plays no more. */
  onMoment?: ((moment: number, isPlaying: boolean) => void) | undefined
  /** Told all answers to its questions, and how many questions there are, after each answer. */
  onAnswered?: ((all: readonly Answered[], count: number) => void) | undefined
  /** Where to go on, seconds; absent: where this browser stopped. */
  resumeAt?: number
  /** Something that whoever watches should know. */
  notice?: string
}

/** What stands before it: a passcode, or being one of the people of a school. */
export type Lock = 'passcode' | 'sign-in'
export type Opened = { source: Source } | { locked: Lock } | { problem: string }

/** Why the server gave nothing, as the learner reads it. */
async function refusalOf(response: Response): Promise<string> {
  const { said } = (await response.json()) as { said?: unknown }
  return isMessage(said) ? say(said) : say('This page cannot reach its lecture now. Check the connection and load it again.')
}

/** @returns the edition, whether a passcode is wanted, or a sentence for the learner */
export async function openToken(token: string): Promise<Opened> {
  try {
    const response = await client[':token'].edition.$get({ param: { token } })
    if (response.ok) return { source: serverSource(token, await response.json()) }
    if ((response.status as number) === 401) {
      const { needsSignIn } = (await response.json()) as unknown as { needsSignIn?: boolean }
      return { locked: needsSignIn ? 'sign-in' : 'passcode' }
    }
    return { problem: await refusalOf(response as unknown as Response) }
  } catch {
    return { problem: say('This page cannot reach its lecture now. Check the connection and load it again.') }
  }
}

/** @returns null when the passcode opens it, else a sentence */
export async function unlock(token: string, passcode: string): Promise<string | null> {
  try {
    const response = await client[':token'].entry.$post({ param: { token }, json: { passcode } })
    return response.ok ? null : await refusalOf(response as unknown as Response)
  } catch {
    return say('This page cannot reach its lecture now. Check the connection and try again.')
  }
}

function serverSource(token: string, edition: WatchedEdition): Source {
  const fileUrl = (name: string) => `/watch/${token}/files/${edition.id}/${name}`
  return {
    edition,
    fileUrl,
    async captions(track) {
      const response = await fetch(fileUrl(track.file))
      if (!response.ok) throw new Error(`${response.status}`)
      return response.text()
    },
    async whyNot() {
      const opened = await openToken(token)
      if ('problem' in opened) return opened.problem
      if (!('locked' in opened)) return null
      return opened.locked === 'passcode'
        ? say('This lecture asks for its passcode again. Load the page again to give it.')
        : say('Your session has ended. Load the page again to sign in.')
    },
    async isOutdated() {
      const opened = await openToken(token)
      return 'source' in opened && opened.source.edition.number > edition.number
    },
    folderUrl: edition.hasFolder ? `/watch/${token}/folder/${edition.id}` : null,
    pageUrl: `/watch/${token}`,
    place: token,
    onMoment: countedBy(token, edition),
    onBegin: () => void client[':token'].views.$post({ param: { token } }).catch(() => {}),
  }
}

/** Counts what is shown, and tells it when the page is hidden or left. @returns undefined where the browser asks not to be followed */
function countedBy(token: string, edition: WatchedEdition): Source['onMoment'] {
  if (asksNotToBeCounted(navigator)) return undefined
  const count = new WatchCount(toSeconds(edition.lengthSamples))
  const tell = (isLeft: boolean) => {
    const json = count.take(isLeft)
    const param = { token, edition: edition.id }
    if (json) void client[':token'].watching[':edition'].$post({ param, json }, { init: { keepalive: true } }).catch(() => {})
  }
  document.addEventListener('visibilitychange', () => document.visibilityState === 'hidden' && tell(false))
  addEventListener('pagehide', () => tell(true))
  return count.see
}

/** @returns index of the chapter shown at a moment */
export function chapterAt(chapters: readonly WatchedChapter[], moment: number): number {
  return Math.max(
    0,
    chapters.findLastIndex((chapter) => toSeconds(chapter.startSamples) <= moment + 0.002),
  )
}

export const chapterEnd = (chapter: WatchedChapter) => toSeconds(chapter.startSamples + chapter.lengthSamples)
export const chapterTitle = (chapter: WatchedChapter, index: number) =>
  chapter.title || say('Slide {index}', { index: index + 1 })
