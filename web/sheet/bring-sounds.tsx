/** Sound files that were dropped or chosen: which slide is each for? Or is it one recording for all, or music under them? */

import { useMemo, useState } from 'react'
import { useNavigate } from 'react-router'
import { toast } from 'sonner'
import { isMusicName, matchSounds } from '#core/deck/match/match-sounds.ts'
import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { message, say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { Dialog } from '#web/components/overlay/dialog.tsx'
import { api, sentenceOf } from '#web/data/api.ts'
import { sheetApi } from '#web/data/endpoints/sheet.ts'
import { useJobEnd } from '#web/data/use-job-end.ts'
import { useFilmActs } from './bench/moving/use-film-acts.ts'

/** Where a sound goes that is for no slide alone. */
const UNDER_ALL = 'under the voice'

const WHY = { number: message('by its number'), title: message('by its title'), order: message('by order'), none: null }

/** Sends sounds on their way. @param onDone told when all of them are */
function useBringing(lecture: Lecture, onDone: () => void) {
  const navigate = useNavigate()
  const [addSound] = sheetApi.useAddSoundMutation()
  const [addRecording] = api.useAddRecordingMutation()
  const [addBed] = api.useAddBedMutation()
  const whenEnded = useJobEnd()
  const [sending, setSending] = useState(false)
  async function bring(work: () => Promise<void>) {
    setSending(true)
    try {
      await work()
      onDone()
    } catch (error) {
      toast.error(sentenceOf(error))
    } finally {
      setSending(false)
    }
  }
  const toSlides = (files: readonly File[], chosen: readonly (string | null)[]) =>
    bring(async () => {
      for (const [i, slideId] of chosen.entries()) {
        if (slideId === null) continue
        if (slideId === UNDER_ALL) await layUnder(files[i]!)
        else whenEnded(await addSound({ slideId, file: files[i]! }).unwrap(), () => {})
      }
      const count = chosen.filter((id) => id !== null && id !== UNDER_ALL).length
      if (count === 0) return
      toast(
        say(
          '{count, plural, one {# sound file on the way to its slide} other {# sound files on the way to their slides}}; each is tidied like a recording.',
          { count },
        ),
      )
    })
  const asRecording = (file: File) =>
    bring(async () => {
      const job = await addRecording({ id: lecture.id, file }).unwrap()
      void navigate(`/lectures/${lecture.id}/divide`)
      whenEnded(job, () => {})
    })
  const layUnder = async (file: File) => {
    const [first, last] = [lecture.slides[0]!, lecture.slides.at(-1)!]
    const job = await addBed({ id: lecture.id, file, fromSlideId: first.id, toSlideId: last.id }).unwrap()
    whenEnded(job, () =>
      toast.success(say('“{name}” lies under the whole lecture now.', { name: file.name }), {
        action: { label: say('Set it'), onClick: () => void navigate(`/lectures/${lecture.id}/sound`) },
      }),
    )
  }
  const asBed = (file: File) => bring(() => layUnder(file))
  return { sending, toSlides, asRecording, asBed }
}

interface SoundRowProps {
  lecture: Lecture
  file: File
  /** The slide it is for; null where it is left out. */
  chosen: string | null
  onChoose: (chosen: string | null) => void
  /** Why it is for that slide, or for none. */
  why: string
}

function SoundRow({ lecture, file, chosen, onChoose, why }: SoundRowProps) {
  return (
    <tr className="border-t border-base-300">
      <td className="max-w-56 truncate py-1.5 pe-3" title={file.name}>
        {file.name}
      </td>
      <td className="py-1.5">
        <select
          aria-label={say('Slide for {name}', { name: file.name })}
          className="select select-sm w-72 border-edge bg-base-100"
          value={chosen ?? ''}
          onChange={({ target }) => onChoose(target.value || null)}
        >
          <option value="">{say('leave it out')}</option>
          <option value={UNDER_ALL}>{say('under the voice, on all slides (music)')}</option>
          {lecture.slides.map((slide, n) => (
            <option key={slide.id} value={slide.id}>
              {n + 1}. {slide.title || say('Without a title')}
              {keptTake(slide) ? ` (${say('has a recording')})` : ''}
            </option>
          ))}
        </select>
      </td>
      <td className="py-1.5 ps-2 whitespace-nowrap text-base-content/75">{why}</td>
    </tr>
  )
}

/** What bringing them is called. @param count of those for a slide @param under of those that lie under the voice */
function bringWords(single: boolean, isFilm: boolean, count: number, under: number): string {
  if (single) {
    if (under > 0) return say('Play it under the voice')
    return isFilm ? say('Take its sound as the recording') : say('Put it on this slide')
  }
  if (count > 0 && under > 0) return say('Put {count} on their slides, and {under} under the voice', { count, under })
  if (under > 0) return say('Put {under} under the voice', { under })
  return count > 0 ? say('Put {count} on their slides', { count }) : say('Put them on their slides')
}

/** A film has a sound as well: what is it for? */
const FILM = /\.(mp4|m4v|mov|wmv|avi|webm|mkv|mpe?g)$/i

export function BringSounds({
  lecture,
  files,
  slideId,
  onClose,
}: {
  lecture: Lecture
  files: File[]
  /** The slide that is open. */
  slideId: string | null
  onClose: () => void
}) {
  const films = useFilmActs()
  const { sending, toSlides, asRecording, asBed } = useBringing(lecture, () => onClose())
  const matched = useMemo(
    () =>
      matchSounds(
        files.map((f) => f.name),
        lecture.slides.map((s) => s.title),
        { guess: true },
      ),
    [files, lecture.slides],
  )
  const [chosen, setChosen] = useState<(string | null)[]>(() =>
    files.length === 1 && slideId !== null && FILM.test(files[0]!.name)
      ? [slideId]
      : matched.map((m, i) => (m.slide !== null ? lecture.slides[m.slide]!.id : isMusicName(files[i]!.name) ? UNDER_ALL : null)),
  )
  const twice = new Set(chosen.filter((id, i) => id !== null && id !== UNDER_ALL && chosen.indexOf(id) !== i))
  const count = chosen.filter((id) => id !== null && id !== UNDER_ALL).length
  const under = chosen.filter((id) => id === UNDER_ALL).length
  const [single] = files.length === 1 ? files : []
  const film = single && FILM.test(single.name) ? single : null
  const whyOf = (i: number): string => {
    const [slideId, match] = [chosen[i], matched[i]!]
    if (slideId === UNDER_ALL) return say('background music')
    if (!slideId) return match.slide === null ? say('no slide has its number') : ''
    if (twice.has(slideId)) return say('chosen twice')
    return slideId === lecture.slides[match.slide ?? -1]?.id ? (WHY[match.why] ? say(WHY[match.why]!) : '') : ''
  }

  return (
    <Dialog
      title={
        film
          ? say('What is this film for?')
          : single
            ? say('Where does this sound belong?')
            : say('Which sound is for which slide?')
      }
      width="max-w-2xl"
      onClose={onClose}
    >
      <p className="mt-1 mb-3 text-sm text-base-content/75">
        {say('A slide that has a recording keeps it; the file becomes its newest take.')}
      </p>
      <table className="w-full text-sm">
        <tbody>
          {files.map((file, i) => (
            <SoundRow
              key={file.name}
              lecture={lecture}
              file={file}
              chosen={chosen[i]!}
              onChoose={(id) => setChosen(chosen.map((before, at) => (at === i ? id : before)))}
              why={whyOf(i)}
            />
          ))}
        </tbody>
      </table>
      <p className="mt-4 flex flex-wrap items-center gap-2">
        {film && (
          <Button
            kind="primary"
            disabled={sending || count === 0}
            onClick={() => {
              void films.add({ id: chosen[0]! }, film)
              onClose()
            }}
          >
            {say('Show it on this slide')}
          </Button>
        )}
        <Button
          kind={film ? 'plain' : 'primary'}
          disabled={sending || count + under === 0}
          onClick={() => void toSlides(files, chosen)}
        >
          {bringWords(single !== undefined, film !== null, count, under)}
        </Button>
        {single && (
          <>
            <Button disabled={sending} onClick={() => void asRecording(single)}>
              {say('Divide it over the slides')}
            </Button>
            {under === 0 && (
              <Button disabled={sending} onClick={() => void asBed(single)}>
                {say('Play it under the slides')}
              </Button>
            )}
          </>
        )}
        <Button kind="ghost" onClick={onClose}>
          {say('Leave it')}
        </Button>
        {sending && <span className="text-sm text-base-content/75">{say('Sending')}</span>}
      </p>
    </Dialog>
  )
}
