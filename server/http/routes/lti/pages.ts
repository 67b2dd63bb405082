/** What is seen of launches: a choice for teachers, a way out of the platform's frame, and what went wrong. Pages without a script. */
import { escapeUTF8 } from 'entities'
import type { Language } from '#core/words/languages.ts'
import { directionOf, type Message, message } from '#core/words/say.ts'
import { sayIn } from '#core/words/say-in.ts'
import type { Pickable } from '#server/lti/deep-linking.ts'

const STYLE = `body { font: 1rem/1.5 system-ui, sans-serif; color: #1d2a2e; background: #f8f5ee; margin: 0; padding: 1.5rem; max-width: 46rem }
h1 { font-size: 1.3rem } ul { list-style: none; padding: 0 } li { border-top: 1px solid #d9d2c3; padding: .5rem 0 }
label { display: flex; gap: .6rem; align-items: baseline }
button, .button { font: inherit; font-weight: 600; padding: .45rem 1rem; border: 1px solid #17594a; border-radius: 6px; background: #17594a; color: #fff; text-decoration: none; cursor: pointer }
select { font: inherit; padding: .25rem }`

function page(language: Language, title: string, body: string): string {
  return `<!doctype html><html lang="${language}" dir="${directionOf(language)}"><head><meta charset="utf-8" /><meta name="viewport" content="width=device-width, initial-scale=1" /><title>${escapeUTF8(title)}</title><style>${STYLE}</style></head><body><h1>${escapeUTF8(title)}</h1>${body}</body></html>`
}

export function problemPage(language: Language, problem: Message): string {
  return page(
    language,
    sayIn(language, message('This cannot be opened')),
    `<p role="alert">${escapeUTF8(sayIn(language, problem))}</p>`,
  )
}

const SHARES = [1, 0.9, 0.8, 0.7, 0.5]
const USUAL = 0.9

/** @param picking what the choice brings back */
export function pickingPage(language: Language, picking: string, items: readonly Pickable[]): string {
  const say = (said: Message) => escapeUTF8(sayIn(language, said))
  const title = sayIn(language, message('What goes into the course?'))
  if (items.length === 0)
    return page(
      language,
      title,
      `<p>${say(message('There is nothing here that you could put into a course. Publish a lecture, or make a link for a class; where people sign in here, the platform has to tell the e-mail address that you sign in with.'))}</p>`,
    )
  const choices = items
    .map(
      ({ kind, id, title: name }, i) =>
        `<li><label><input type="radio" name="choice" value="${kind} ${escapeUTF8(id)}" ${i === 0 ? 'checked' : ''} /><span><bdi>${escapeUTF8(name)}</bdi>${kind === 'class' ? ` · ${say(message('each records their reading or answer'))}` : ''}</span></label></li>`,
    )
    .join('')
  const shares = SHARES.map(
    (share) => `<option value="${share}" ${share === USUAL ? 'selected' : ''}>${Math.round(share * 100)} %</option>`,
  ).join('')
  return page(
    language,
    title,
    `<form method="post" action="/lti/choice"><input type="hidden" name="picking" value="${escapeUTF8(picking)}" /><ul>${choices}</ul><p><label>${say(message('A lecture is completed when so much of it was heard'))} <select name="share">${shares}</select></label></p><p><button>${say(message('Put it in'))}</button></p></form>`,
  )
}

/** The answer to the platform, which its own page takes. */
export function answerPage(
  language: Language,
  { returnUrl, jwt, name }: { returnUrl: string; jwt: string; name: string },
): string {
  return page(
    language,
    sayIn(language, message('It is ready to be put in')),
    `<form method="post" action="${escapeUTF8(returnUrl)}"><input type="hidden" name="JWT" value="${escapeUTF8(jwt)}" /><button autofocus>${escapeUTF8(sayIn(language, message('Back to {name}', { name })))}</button></form>`,
  )
}

/** Within another page there is no microphone: the booth is opened on a page of its own. */
export function boothPage(language: Language, address: string): string {
  return page(
    language,
    sayIn(language, message('Record your reading or answer')),
    `<p>${escapeUTF8(sayIn(language, message('The booth opens on a page of its own, where the browser may use your microphone.')))}</p><p><a class="button" target="_blank" rel="noopener" href="${escapeUTF8(address)}">${escapeUTF8(sayIn(language, message('Open the booth')))}</a></p>`,
  )
}
