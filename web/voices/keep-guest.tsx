/** Keeps all that a guest sent, one press for all of their slides. */
import type { Lecture } from '#core/model/lecture.ts'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { editOrTell } from '#web/data/history.ts'
import { useAppDispatch } from '#web/data/store.ts'

/** The newest take by a name on each slide, where another one is kept. */
const waiting = (lecture: Lecture, name: string) =>
  lecture.slides.flatMap((slide) => {
    const [newest] = slide.takes.filter((take) => take.speaker === name && take.state === 'sealed')
    return newest && newest.id !== slide.keptTakeId ? [{ slide, take: newest }] : []
  })

export function KeepGuest({ lecture, name }: { lecture: Lecture; name: string }) {
  const dispatch = useAppDispatch()
  const found = waiting(lecture, name)
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
