/** The pages and addresses of the practice platform's courses. */
import { type Context, Hono } from 'hono'
import { html } from 'hono/html'
import { page } from '../look/page.ts'
import { type LtiPlatform, PEOPLE, type Score } from './lti-platform.ts'

const ownOf = (c: Context) => new URL(c.req.url).origin

/** A form that is sent at once. */
const sentForm = (
  action: string,
  fields: Record<string, string>,
  target: string,
) => html`<form id="sent" method="post" action="${action}" target="${target}">
${Object.entries(fields).map(([name, value]) => html`<input type="hidden" name="${name}" value="${value}">`)}
</form><script>document.getElementById('sent').submit()</script>`

const withinFrame = (title: string, action: string, fields: Record<string, string>) =>
  page(
    title,
    html`<p><a href="/lti">Back to the course</a></p>
<iframe name="tool" title="${title}" allow="autoplay; fullscreen"></iframe>${sentForm(action, fields, 'tool')}`,
  )

function coursePage(platform: LtiPlatform, own: string) {
  const registration = platform.registration(own)
  return page(
    'A course on the practice platform',
    html`<p>Register it in the app (Settings, Learning platforms) at ${platform.tool} with these:</p>
<table><tbody>${Object.entries(registration).map(([name, value]) => html`<tr><th>${name}</th><td><code>${String(value)}</code></td></tr>`)}</tbody></table>
<p><a href="/lti/choose">Put something into the course</a> (as ${PEOPLE[0]!.name})</p>
<table><thead><tr><th>In the course</th><th>Open as</th><th>Results</th></tr></thead><tbody>
${platform.placed.map(
  ({ id, title }) => html`<tr><td>${title}</td>
<td>${PEOPLE.map((who) => html`<a href="/lti/open/${id}/${who.id}">${who.name}</a> `)}</td>
<td>${(platform.scores.get(id) ?? []).map((score) => html`${score.userId}: ${score.scoreGiven} of ${score.scoreMaximum}, ${score.activityProgress}<br>`)}</td></tr>`,
)}
</tbody></table>
<p class="bad">${platform.faults.join('; ')}</p>`,
  )
}

export function ltiRoutes(platform: LtiPlatform): Hono {
  const app = new Hono()
  const down = (c: Context) => c.text('The platform is busy', 503)
  app.get('/', (c) => c.html(coursePage(platform, ownOf(c))))
  app.get('/told', (c) =>
    c.json({ placed: platform.placed, scores: Object.fromEntries(platform.scores), faults: platform.faults }),
  )
  app.get('/keys', async (c) => (platform.isDown ? down(c) : c.json({ keys: [await platform.publicKey()] })))
  app.get('/choose', (c) => {
    const fields = platform.loginFields(ownOf(c), PEOPLE[0]!, { message: 'LtiDeepLinkingRequest', placed: null })
    return c.html(withinFrame('Choose for the course', `${platform.tool}/lti/login`, fields))
  })
  app.get('/open/:id/:who', (c) => {
    const who = PEOPLE.find(({ id }) => id === c.req.param('who'))
    const item = platform.placed.find(({ id }) => id === c.req.param('id'))
    if (!who || !item) return c.notFound()
    const fields = platform.loginFields(ownOf(c), who, { message: 'LtiResourceLinkRequest', placed: item.id })
    return c.html(withinFrame(item.title, `${platform.tool}/lti/login`, fields))
  })
  app.get('/auth', async (c) => {
    const answer = await platform.authorize(ownOf(c), c.req.query())
    if (typeof answer === 'string') return c.text(answer, 400)
    return c.html(page('Opening', sentForm(answer.action, answer.fields, '_self')))
  })
  app.post('/token', async (c) => {
    if (platform.isDown) return down(c)
    const answer = await platform
      .token(ownOf(c), (await c.req.parseBody()) as Record<string, string>)
      .catch((error: Error) => error.message)
    return typeof answer === 'string'
      ? c.json({ error: 'invalid_client', error_description: answer }, 400)
      : c.json({ ...answer, token_type: 'Bearer', expires_in: 3600 })
  })
  app.post('/items/:id/scores', async (c) => {
    if (platform.isDown) return down(c)
    const fault = platform.score(
      c.req.param('id'),
      c.req.header('authorization'),
      c.req.header('content-type'),
      (await c.req.json()) as Score,
    )
    return fault === null ? c.body(null, 204) : c.text(fault, 400)
  })
  app.post('/chosen', async (c) => {
    const { JWT: token } = (await c.req.parseBody()) as Record<string, string>
    const fault = await platform.choose(ownOf(c), token ?? '').catch((error: Error) => error.message)
    return c.html(
      page(
        fault === null ? 'It is in the course' : 'It was refused',
        html`<p>${fault ?? ''}</p><p><a href="/lti" target="_top">To the course</a></p>`,
      ),
    )
  })
  return app
}
