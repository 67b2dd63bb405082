import type { Message } from '#core/words/say.ts'

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
