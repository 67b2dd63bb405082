/** Where a learning platform opened the page: the server is told how far somebody has come, and tells the platform. */
import { hc } from 'hono/client'
import type { Answered } from '#core/model/question.ts'
import { Listening, NOTHING_KEPT, type Progress, packListening, unpackListening } from '#core/packages/listening.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { say } from '#core/words/say.ts'
import type { WatchApi } from '#server/http/routes/watch/watch.ts'
import type { Source, WatchedEdition } from '#web/watch/edition/edition.ts'
import { Teller } from '#web/watch/packages/teller.ts'

const client = hc<WatchApi>('/watch')
/** As long as the server takes. */
const MOST_CHARACTERS = 4096
const AGAIN_MS = 15_000

/** What was told last is what counts: what could not be sent is sent with what comes after it. */
class Sender {
  readonly #param: { token: string; launch: string }
  readonly #length: number
  readonly #share: number
  #last: Progress | null = null

  constructor(param: { token: string; launch: string }, length: number, share: number) {
    this.#param = param
    this.#length = length
    this.#share = share
  }

  readonly send = (progress: Progress) => {
    this.#last = progress
    const { isCompleted, heardShare } = progress
    const heard = packListening(progress, this.#length, MOST_CHARACTERS)
    const json = { heard, result: isCompleted ? 1 : Math.min(1, heardShare / this.#share), isCompleted }
    client[':token'].launches[':launch'].$put({ param: this.#param, json }, { init: { keepalive: true } }).then(
      (answer) => answer.ok || answer.status < 500 || this.#later(progress),
      () => this.#later(progress),
    )
  }

  #later(progress: Progress) {
    setTimeout(() => this.#last === progress && this.send(progress), AGAIN_MS)
  }
}

/** @returns what the page needs to know beside its edition; what is told of who is not known any more */
export async function openLaunch(token: string, launch: string, edition: WatchedEdition): Promise<Partial<Source>> {
  const param = { token, launch }
  const answer = await client[':token'].launches[':launch'].$get({ param }).catch(() => null)
  if (!answer?.ok)
    return {
      notice: say('The learning platform does not know this page any more: nothing is told to it. Open the lecture there again.'),
    }
  const { heard, share, isCompleted } = (await answer.json()) as { heard: string; share: number; isCompleted: boolean }
  const lengthSeconds = toSeconds(edition.lengthSamples)
  const slideStarts = edition.chapters.map((chapter) => toSeconds(chapter.startSamples))
  const kept = heard === '' ? NOTHING_KEPT : unpackListening(heard, lengthSeconds)
  const listening = new Listening({ lengthSeconds, slideStarts, share }, { ...kept, isCompleted }, performance.now())
  const { send } = new Sender(param, lengthSeconds, share)
  const teller = new Teller({ begin: async () => kept, tell: send, end: send, learner: '', isLate: true }, listening)
  return {
    // on a computer that several people use, each goes on where they were
    place: `${token} ${launch}`,
    resumeAt: kept.place,
    onMoment: teller.see,
    onAnswered: (all: readonly Answered[], count: number) => teller.answer(all, count),
  }
}
