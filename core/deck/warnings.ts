import { type Message, message } from '#core/words/say.ts'

/** What could not be drawn of a slide: each thing once. */
export class Warnings {
  readonly #byText = new Map<string, Message>()

  add(warning: Message) {
    this.#byText.set(JSON.stringify(warning), warning)
  }

  list(): Message[] {
    return [...this.#byText.values()]
  }
}

/** Whether a warning is of something else than the picture: another picture does not settle it. */
export const outlastsPicture = ({ id }: Message): boolean => /\bsound\b/.test(id)

/** What may be wrong with a slide of any kind of deck. */
export const WARN = {
  linkedPicture: message(
    'A picture is not in the deck but linked from elsewhere, so it is missing. Put it into the deck, or add the PDF of it.',
  ),
  diagram: message('A diagram could not be drawn.'),
  embeddedObject: message('An embedded object could not be drawn.'),
  chartOrObject: message('A chart or an embedded object could not be drawn.'),
  unknownChart: message('A chart of a kind that is not known here could not be drawn.'),
  firstPictureOnly: message('A film on this slide is shown as its first picture only.'),
  filmElsewhere: (name: string) =>
    message(
      'Its film “{name}” is not in the deck: it is linked from the computer the deck was made on. Drop that file onto this slide.',
      { name },
    ),
  filmUnder: message('What lies over a film in the deck is under it here.'),
  filmTurned: message('A film was turned or mirrored in the deck. It stands upright here.'),
  /** @param count of effects that leave nothing to be seen, or wait for a press on something */
  animations: (count: number) =>
    message(
      '{count, plural, one {# animation of this slide is not shown} other {# animations of this slide are not shown}}: a movement that leaves nothing behind, or something to be pressed. Where it matters, add a picture for each step.',
      { count },
    ),
  /** @param count of clicks */
  stepsAsOne: (count: number) =>
    message(
      '{count, plural, one {# click of this slide is not shown} other {# clicks of this slide are not shown}}: the page of the PDF has all of it at once. Bring the presentation file without the PDF to have a picture for each.',
      { count },
    ),
  unreadablePicture: (format: string) => message('A picture ({format}) could not be read, so it is missing.', { format }),
  drawing: (format: string) => message('A drawing ({format}) could not be drawn.', { format }),
  tableInPart: message('Of a table from a spreadsheet only the first 60 rows are drawn.'),
  drawnInPart: (format: string) =>
    message('A drawing ({format}) is not drawn whole: words, curves or pictures in it may be missing.', { format }),
  plainBox: (name: string) => message('A shape ({name}) is drawn as a plain box.', { name }),
  soundElsewhere: (name: string) =>
    message(
      'Its sound “{name}” is not in the deck: it is linked from the computer the deck was made on. Drop that file onto this slide.',
      { name },
    ),
}
