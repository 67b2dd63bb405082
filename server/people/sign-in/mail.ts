/** Letters to people, where a mail server is set up: with the link that lets them in. */

import { createTransport } from 'nodemailer'
import { RateLimiterMemory } from 'rate-limiter-flexible'
import type { Language } from '#core/words/languages.ts'
import { type Message, message } from '#core/words/say.ts'
import { sayIn } from '#core/words/say-in.ts'
import type { MailSettings } from '#server/config/config.ts'

/** A mail server that does not answer keeps nobody waiting for longer. */
const PATIENCE_MS = 10_000

export interface Letter {
  to: string
  subject: Message
  /** What is no message is written as it stands. */
  paragraphs: (Message | string)[]
  language: Language
}

export interface Mail {
  /** @returns whether the mail server took it */
  send(letter: Letter): Promise<boolean>
}

export function mailBy({ url, from }: MailSettings): Mail {
  const transport = createTransport({
    url,
    connectionTimeout: PATIENCE_MS,
    greetingTimeout: PATIENCE_MS,
    socketTimeout: PATIENCE_MS,
    // a letter is words of our own and an address, never a file of this machine
    disableFileAccess: true,
    disableUrlAccess: true,
  })
  return {
    async send({ to, subject, paragraphs, language }) {
      try {
        await transport.sendMail({
          from,
          // as an object: a comma in it is no second address
          to: { name: '', address: to },
          subject: sayIn(language, subject),
          text: `${paragraphs.map((one) => (typeof one === 'string' ? one : sayIn(language, one))).join('\n\n')}\n`,
          headers: { 'Content-Language': language, 'Auto-Submitted': 'auto-generated' },
        })
        return true
      } catch (error) {
        // without the address: what the server writes of itself names nobody
        console.error('A letter was not taken by the mail server:', (error as { code?: string }).code ?? 'unknown')
        return false
      }
    },
  }
}

const HOUR_S = 3600
const MOST_BY_ACCOUNT = 3
const MOST_BY_ADDRESS = 20

/** How often strangers may have letters sent: nobody's letter box is filled by them. */
export function lettersAsked() {
  const byAccount = new RateLimiterMemory({ points: MOST_BY_ACCOUNT, duration: HOUR_S })
  const byAddress = new RateLimiterMemory({ points: MOST_BY_ADDRESS, duration: HOUR_S })
  return {
    mayAsk: (email: string, address: string) =>
      byAddress
        .consume(address)
        .then(() => byAccount.consume(email.toLowerCase()))
        .then(
          () => true,
          () => false,
        ),
  }
}
export type LettersAsked = ReturnType<typeof lettersAsked>

/** To whom somebody gave a place here. */
export const invitationLetter = (to: string, link: string, inviter: string, language: Language): Letter => ({
  to,
  subject: message('You are invited to Tidy Lectern'),
  paragraphs: [
    message('{inviter} invites you to make and share narrated lectures.', { inviter }),
    message('This link lets you in once, within fourteen days:'),
    link,
    message('If you do not know of this, leave it: nothing happens without the link.'),
  ],
  language,
})

/** To who forgot a password, or is given a new one. */
export const passwordLetter = (to: string, link: string, language: Language): Letter => ({
  to,
  subject: message('A new password for Tidy Lectern'),
  paragraphs: [
    message('With this link you choose a new password. It works once, within a day:'),
    link,
    message('If you did not ask for it, leave it: your password stays as it is.'),
  ],
  language,
})
