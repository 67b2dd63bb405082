declare module 'linebreak' {
  /** Where a line may end, after UAX #14. */
  export default class LineBreaker {
    constructor(text: string)
    nextBreak(): { position: number; required?: boolean } | null
  }
}
