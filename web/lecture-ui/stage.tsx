/** The picture and the caption at this moment of the lecture, transitions and all. */
import { useEffect, useRef } from 'react'
import type { LectureCue } from '#core/captions/tracks/place-cues.ts'
import type { PlannedFilm } from '#core/edition/films.ts'
import { type Shown, shownAt } from '#core/edition/frame-at.ts'
import type { EditionPlan } from '#core/edition/plan.ts'
import { SQUARE_CORNER } from '#core/model/moving/small-picture.ts'
import { TRANSITIONS } from '#core/model/transition.ts'
import { pictureUrl } from '#web/data/api.ts'
import { player } from '#web/playback/player.ts'
import { usePlayhead } from '#web/playback/use-playhead.ts'

/** How the new picture lies over the old one at a moment of a transition, as the encoder draws it. */
function lay(over: HTMLElement, under: HTMLElement, transition: NonNullable<Shown['transition']> | null) {
  under.style.visibility = transition ? 'visible' : 'hidden'
  const { opacity, cutLeft, newShift, oldShift } = TRANSITIONS[transition?.kind ?? 'cross-fade'].layout(transition?.progress ?? 1)
  over.style.opacity = String(opacity)
  over.style.clipPath = cutLeft > 0 ? `inset(0 0 0 ${cutLeft * 100}%)` : ''
  over.style.transform = newShift === 0 ? '' : `translateX(${newShift * 100}%)`
  under.style.transform = oldShift === 0 ? '' : `translateX(${oldShift * 100}%)`
}

const PICTURE = 'absolute inset-0 size-full object-contain'

/** As the encoder draws it: a small picture is cut to its shape, another one fills its place. */
const shapeOf = ({ edge, isMirrored }: Pick<PlannedFilm, 'edge' | 'isMirrored'>) => ({
  objectFit: edge ? 'cover' : 'fill',
  borderRadius: edge === 'round' ? '50%' : edge === 'square' ? `${SQUARE_CORNER * 100}%` : '',
  transform: isMirrored ? 'scaleX(-1)' : '',
})

/** Puts each film that is seen where it stands, and takes away the others. */
function showFilms(holder: HTMLElement, films: Shown['films']) {
  const seen = new Set<Element>()
  for (const { film } of films) {
    const element = player.films.screen(film)
    seen.add(element)
    if (element.parentElement !== holder) {
      element.className = 'absolute'
      holder.append(element)
    }
    const share = (value: number) => `${value * 100}%`
    const { x, y, width, height } = film.place
    Object.assign(element.style, { left: share(x), top: share(y), width: share(width), height: share(height), ...shapeOf(film) })
  }
  for (const child of holder.querySelectorAll('video')) if (!seen.has(child)) child.remove()
}

export function Stage({ plan, cues, captions }: { plan: EditionPlan; cues: readonly LectureCue[]; captions: boolean }) {
  const over = useRef<HTMLImageElement>(null)
  const under = useRef<HTMLImageElement>(null)
  const films = useRef<HTMLDivElement>(null)
  const words = useRef<HTMLParagraphElement>(null)
  const show = (element: HTMLImageElement, picture: string) => {
    const url = pictureUrl(picture)
    if (element.getAttribute('src') !== url) element.src = url
  }
  useEffect(() => {
    // the next pictures wait in the browser's memory, so that a change is seen at once
    for (const { pictures } of plan.slides.slice(0, 60)) for (const { picture } of pictures) new Image().src = pictureUrl(picture)
  }, [plan])
  usePlayhead((seconds) => {
    if (!over.current || !under.current) return
    const shown = shownAt(plan, seconds)
    show(over.current, shown.picture)
    if (shown.transition) show(under.current, shown.transition.from)
    lay(over.current, under.current, shown.transition)
    if (films.current) showFilms(films.current, shown.transition ? [] : shown.films)
    const cue = captions ? cues.find((c) => seconds >= c.start && seconds < c.end) : undefined
    if (words.current) {
      if (words.current.textContent !== (cue?.text ?? '')) words.current.textContent = cue?.text ?? ''
      words.current.hidden = !cue
    }
  })
  return (
    <div className="relative aspect-video w-full overflow-hidden bg-black" data-testid="stage">
      <img ref={under} alt="" className={PICTURE} />
      <img ref={over} alt="" className={PICTURE} />
      <div ref={films} aria-hidden="true" />
      <p
        ref={words}
        className="absolute inset-x-0 bottom-2 mx-auto w-fit max-w-[92%] rounded bg-black/85 px-2 py-0.5 text-center font-read text-sm leading-snug whitespace-pre-line text-white"
      />
    </div>
  )
}
