import { type Message, say } from './say.ts'

/** An error that people are told, each in their own language. Its `message` is in the language of where it happened. */
export class SaidError extends Error {
  readonly said: Message

  constructor(said: Message) {
    super(say(said))
    this.said = said
  }
}
