import { SaidError } from '#core/words/said-error.ts'

/** A deck that cannot be read: what is wrong with it, for the person who gave it. */
export class DeckProblem extends SaidError {}
