/** A deck that cannot be read; its message is a sentence for the person who gave it. */
export class DeckProblem extends Error {}
