/** The changes of slide over the whole waveform: proposed, typed, dragged; then the recording is divided at them. */
import { useMemo, useState } from 'react'
import { useNavigate } from 'react-router'
import { toast } from 'sonner'
import type { Lecture } from '#core/model/lecture.ts'
import { keptTake } from '#core/model/slide.ts'
import { SAMPLE_RATE, toSamples, toSeconds } from '#core/timing/clocks.ts'
import { type Boundary, snapToPause } from '#core/timing/split.ts'
import { visitsOf } from '#core/timing/split-session.ts'
import { clock, plural } from '#web/components/format.ts'
import { api, type Recording, sentenceOf, soundUrl } from '#web/data/api.ts'
import { useJobEnd } from '#web/data/use-job-end.ts'
import { togglePlay, usePlaying } from '#web/playback/sound.ts'
import { Changes } from './changes.tsx'
import type { From, Question } from './proposal.ts'
import { useProposal } from './use-proposal.ts'

const FROM_WORDS: Record<From, string> = {
  marks: 'the pauses near my key presses',
  pressed: 'my key presses as they were',
  scripts: 'the scripts',
  pauses: 'the longest pauses',
  moments: 'moments I wrote down',
  lengths: 'lengths I wrote down',
}
/** Every change wants at least so much of the recording on each side. */
const CLOSEST = toSamples(0.3)

const timesText = (seconds: readonly number[]) => seconds.map((s) => clock(s)).join('  ')

export function Division({ lecture, recording }: { lecture: Lecture; recording: Recording }) {
  const navigate = useNavigate()
  const [divide, { isLoading }] = api.useDivideMutation()
  const whenEnded = useJobEnd()
  const [first, setFirst] = useState(0)
  const [last, setLast] = useState(lecture.slides.length - 1)
  const visits = useMemo(() => {
    if (!recording.firstSlideId || !recording.marks) return null
    const gone = visitsOf(recording.firstSlideId, recording.marks)
    return gone.every((visit) => lecture.slides.some((s) => s.id === visit.slideId)) ? gone : null
  }, [recording, lecture.slides])
  const slides = useMemo(
    () =>
      visits ? visits.map((visit) => lecture.slides.find((s) => s.id === visit.slideId)!) : lecture.slides.slice(first, last + 1),
    [visits, lecture.slides, first, last],
  )
  const numbers = slides.map((slide) => lecture.slides.indexOf(slide) + 1)
  const written = slides.filter((slide) => slide.script.trim() !== '').length
  const [from, setFrom] = useState<From>(visits ? 'marks' : written * 2 > slides.length ? 'scripts' : 'pauses')
  const [typed, setTyped] = useState('')
  const [moved, setMoved] = useState<Boundary[] | null>(null)
  const end = toSeconds(recording.samples)
  const playing = usePlaying() === soundUrl(recording.sound)

  const question = useMemo(
    (): Question => ({
      from,
      speech: recording.speech,
      scripts: slides.map((slide) => slide.script),
      language: lecture.language,
      visits,
      typed,
      end,
    }),
    [from, typed, recording, slides, visits, lecture.language, end],
  )
  const proposal = useProposal(question)
  const boundaries = moved ?? proposal?.boundaries ?? []
  const again = (act: () => void) => {
    setMoved(null)
    act()
  }
  const move = (index: number, at: number, snap: boolean) => {
    const low = (boundaries[index - 1]?.at ?? 0) + CLOSEST
    const high = (boundaries[index + 1]?.at ?? recording.samples) - CLOSEST
    const wanted = Math.round(Math.min(high, Math.max(low, at)))
    const to = snap ? snapToPause(recording.speech, wanted, SAMPLE_RATE / 4) : { at: wanted, pause: null }
    const inside = to.at >= low && to.at <= high ? to : { at: wanted, pause: null }
    setMoved(boundaries.map((b, i) => (i === index ? inside : b)))
  }
  const edges = [0, ...boundaries.map((b) => b.at), recording.samples]
  const ready = proposal?.problem === null || moved !== null
  const recorded = slides.filter((slide) => keptTake(slide)).length

  const start = async () => {
    try {
      const slideIds = slides.map((slide) => slide.id)
      const job = await divide({ recordingId: recording.id, slideIds, boundaries: boundaries.map((b) => b.at) }).unwrap()
      whenEnded(job, () =>
        toast.success(`${plural(slideIds.length, 'slide has its part', 'slides have their parts')} of “${recording.name}”.`),
      )
      void navigate(`/lectures/${lecture.id}`)
    } catch (error) {
      toast.error(sentenceOf(error), { duration: 12_000 })
    }
  }

  return (
    <main className="grid grow content-start gap-4 p-4">
      <div className="flex flex-wrap items-end gap-x-6 gap-y-3">
        <div>
          <h2 className="font-read text-xl font-semibold">Divide “{recording.name}”</h2>
          <p className="text-sm text-base-content/75">
            {clock(end, 0)} · {plural(recording.speech.length, 'stretch of speech', 'stretches of speech')} found
          </p>
        </div>
        {!visits &&
          (['first', 'last'] as const).map((which) => (
            <label key={which} className="grid gap-0.5 text-sm">
              {which === 'first' ? 'From slide' : 'to slide'}
              <select
                className="select select-sm w-48 border-edge bg-base-100"
                value={which === 'first' ? first : last}
                onChange={({ target }) =>
                  again(() => {
                    const n = Number(target.value)
                    if (which === 'first') setFirst(Math.min(n, last))
                    else setLast(Math.max(n, first))
                  })
                }
              >
                {lecture.slides.map((slide, i) => (
                  <option key={slide.id} value={i}>
                    {i + 1}. {slide.title || 'Without a title'}
                  </option>
                ))}
              </select>
            </label>
          ))}
        <label className="grid gap-0.5 text-sm">
          Changes proposed from
          <select
            className="select select-sm w-52 border-edge bg-base-100"
            value={from}
            onChange={({ target }) => again(() => setFrom(target.value as From))}
          >
            {Object.entries(FROM_WORDS)
              .filter(([value]) => visits !== null || (value !== 'marks' && value !== 'pressed'))
              .map(([value, words]) => (
                <option key={value} value={value}>
                  {words}
                </option>
              ))}
          </select>
        </label>
        <button type="button" className="btn btn-sm border-edge" onClick={() => togglePlay(soundUrl(recording.sound))}>
          {playing ? 'Stop' : 'Hear the recording'}
        </button>
        <button
          type="button"
          className="btn btn-sm btn-primary ml-auto"
          disabled={!ready || isLoading}
          onClick={() => void start()}
        >
          Divide over {plural(new Set(numbers).size, 'slide')}
        </button>
      </div>
      {(from === 'moments' || from === 'lengths') && (
        <label className="grid max-w-3xl gap-1 text-sm">
          {from === 'moments' ? 'Moments at which the slide changed, without the start' : 'How long each slide was shown'}
          <input
            className="input w-full border-edge bg-base-100"
            placeholder={from === 'moments' ? '0:06, 0:11, 0:19, 0:23' : '6, 5, 8, 4, 9'}
            value={typed}
            onChange={({ target }) => again(() => setTyped(target.value))}
          />
        </label>
      )}
      {proposal?.problem && !moved && (
        <p role="alert" className="text-error">
          {proposal.problem}
        </p>
      )}
      {recorded > 0 && (
        <p className="text-sm text-base-content/75">
          {plural(recorded, 'of these slides has a recording', 'of these slides have recordings')} already:{' '}
          {recorded === 1 ? 'it stays' : 'they stay'} as an earlier take.
        </p>
      )}
      <Changes recording={recording} slides={slides} numbers={numbers} boundaries={boundaries} onMove={move} />
      {boundaries.length > 0 && (
        <dl className="grid grid-cols-[9rem_1fr] gap-1 text-sm">
          <dt className="text-base-content/75">Moments of change</dt>
          <dd>{timesText(boundaries.map((b) => toSeconds(b.at)))}</dd>
          <dt className="text-base-content/75">Lengths</dt>
          <dd>{timesText(edges.slice(1).map((edge, i) => toSeconds(edge - edges[i]!)))}</dd>
        </dl>
      )}
    </main>
  )
}
