/** Films of a slide at the steps with which they begin. */
import type { DeckFilm, DeckStep, Drawing, FoundFilm, Transform } from '../deck.ts'
import { WARN, type Warnings } from '../warnings.ts'
import type { StepPictures } from './step-pictures.ts'

const meet = (a: Transform, b: Transform) =>
  a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height

/** Nothing is drawn over a film: what the deck has there is told. */
function tellOver(box: Transform, whole: Drawing, warnings: Warnings) {
  const poster = whole.items.findIndex((item) => item.kind === 'picture' && item.box === box)
  const later = poster < 0 ? [] : whole.items.slice(poster + 1)
  // the line about a film is an item of its own, and is no fault
  if (later.some((item) => item.box !== box && meet(item.box, box))) warnings.add(WARN.filmUnder)
  if (Math.round(box.rotation) % 360 !== 0 || box.flipX || box.flipY) warnings.add(WARN.filmTurned)
}

/**
 * @param films by the names of their shapes @param whole the slide with everything on it, and where films stand in it
 * @param pictures its steps, with the films that begin with each
 * @returns the films of the first picture and the steps with theirs; one that nothing begins follows the voice
 */
export function placedFilms(
  films: ReadonlyMap<string, FoundFilm>,
  whole: Drawing,
  boxes: ReadonlyMap<string, { box: Transform; hasPoster: boolean }>,
  pictures: Pick<StepPictures, 'plays' | 'steps'>,
  warnings: Warnings,
): { films: DeckFilm[]; steps: DeckStep[] } {
  for (const { box } of boxes.values()) tellOver(box, whole, warnings)
  const film = (name: string, settings: DeckFilm['settings'] = {}): DeckFilm[] => {
    const [found, place] = [films.get(name), boxes.get(name)]
    return found && place ? [{ ...found, ...place, settings: { ...found.settings, ...settings } }] : []
  }
  const begun = new Set([...pictures.plays, ...pictures.steps.flatMap((step) => step.plays)])
  const others = [...films.keys()].filter((name) => !begun.has(name))
  return {
    films: [...pictures.plays.flatMap((name) => film(name)), ...others.flatMap((name) => film(name, { voice: 'before' }))],
    steps: pictures.steps.map(({ plays, ...step }) => ({ ...step, films: plays.flatMap((name) => film(name)) })),
  }
}
