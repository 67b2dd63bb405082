/** Keeps all that a guest sent, one press for all of their slides. */
import type { Lecture } from '#core/model/lecture.ts'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { editOrTell } from '#web/data/history.ts'
import { useAppDispatch } from '#web/data/store.ts'

/** The newest of a guest's takes on each slide, where another one is kept. */
const waiting = (lecture: Lecture, takeIds: readonly string[]) =>
  lecture.slides.flatMap((slide) => {
    const [newest] = slide.takes.filter((take) => takeIds.includes(take.id) && take.state === 'sealed')
    return newest && newest.id !== slide.keptTakeId ? [{ slide, take: newest }] : []
  })

interface KeepGuestProps {
  lecture: Lecture
  name: string
  /** What they sent: another guest may have the same name. */
  takeIds: readonly string[]
}

export function KeepGuest({ lecture, name, takeIds }: KeepGuestProps) {
  const dispatch = useAppDispatch()
  const found = waiting(lecture, takeIds)
  if (found.length === 0) return null
  const keep = () =>
    void dispatch(
      editOrTell({
        lectureId: lecture.id,
        label: say('keeping what {name} recorded', { name }),
        forth: found.map(({ slide, take }) => ({ kind: 'slide' as const, id: slide.id, change: { keptTakeId: take.id } })),
        back: found.map(({ slide }) => ({ kind: 'slide' as const, id: slide.id, change: { keptTakeId: slide.keptTakeId } })),
      }),
    )
  return (
    <Button size="xs" onClick={keep} aria-label={say('Keep what {name} sent', { name })}>
      {say('{count, plural, one {Keep it} other {Keep all #}}', { count: found.length })}
    </Button>
  )
}
