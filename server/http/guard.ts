/** Who may ask for what: this machine for everything, strangers for watch pages only; where people sign in, that decides for all who come by the app's own name. */

import type { HttpBindings } from '@hono/node-server'
import { createMiddleware } from 'hono/factory'
import { secureHeaders } from 'hono/secure-headers'
import { message } from '#core/words/say.ts'
import { type Asker, askerOf, hostName, isLocalName, isLoopback } from '#server/config/asker.ts'
import type { Config } from '#server/config/config.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'

/** Paths that strangers may reach: watch pages, booths of guests, what learning platforms ask, and what their pages are built of. */
const isOpen = (path: string) => /^\/(watch\/|record\/|lti\/|assets\/|favicon\.svg$|oembed$)/.test(path)

/**
 * What other pages send here, as the standard has it: learning platforms open lectures so; and a choice, whose page within theirs names no origin.
 * Each brings what it is judged by.
 */
const isSentFromElsewhere = (path: string) => /^\/lti\/(login|launch|choice)$/.test(path)

type Names = Pick<Config, 'publicHosts' | 'appHosts' | 'proxies' | 'mode' | 'publicUrl'>

/** Whether somebody may have the whole app, watch pages only, or nothing. */
function admits(
  { host, address, isForwarded }: Asker,
  isTrusted: boolean,
  { publicHosts, appHosts, mode, publicUrl }: Names,
): 'all' | 'watch' | 'nothing' {
  const name = hostName(host)
  const isApp = appHosts.includes(name) || (mode === 'school' && publicUrl !== null && hostName(new URL(publicUrl).host) === name)
  if (isForwarded) {
    // a forwarder on this machine looks like this machine: without being told of it, nothing but watch pages by their name
    if (isTrusted && isApp) return 'all'
    return publicHosts.includes(name) || (isTrusted && isApp) ? 'watch' : 'nothing'
  }
  if (mode === 'school' && isApp) return 'all'
  if (isLoopback(address)) return isLocalName(host) ? 'all' : publicHosts.includes(name) ? 'watch' : 'nothing'
  return 'watch'
}

/**
 * Checks Host (a page elsewhere may point its own name at this address) and Origin (a page elsewhere may send forms here). Hono's own check
 * of forms is not used: it refuses every program that is no browser and so sends no Origin.
 */
export const guard = (names: Names) =>
  createMiddleware<{ Bindings: HttpBindings; Variables: { asker: Asker } }>(async (c, next) => {
    const asker = askerOf(c, names.proxies)
    c.set('asker', asker)
    const peer = (c.env?.incoming?.socket?.remoteAddress ?? '127.0.0.1').replace(/^::ffff:/, '')
    const admitted = admits(asker, names.proxies.includes(peer), names)
    if (admitted === 'nothing' || (admitted === 'watch' && !isOpen(c.req.path)))
      throw new UserFacingError(
        asker.isForwarded && isLoopback(peer) && names.proxies.length === 0
          ? message(
              'This address opens nothing here: the request was forwarded, and no forwarder is set up. docs/deployment.md says how.',
            )
          : message('This address opens nothing here.'),
        404,
      )
    if (c.req.method !== 'GET' && c.req.method !== 'HEAD' && !isSentFromElsewhere(c.req.path)) {
      const origin = c.req.header('origin')
      const site = c.req.header('sec-fetch-site')
      const own = [`http://${asker.host}`, `https://${asker.host}`]
      if ((origin !== undefined && !own.includes(origin)) || site === 'cross-site')
        throw new UserFacingError(message('Another page tried to change something here; it was refused.'), 404)
    }
    await next()
  })

/** What pages may load and who may show them, said to every browser. */
export const headers = secureHeaders({
  contentSecurityPolicy: {
    defaultSrc: ["'self'"],
    scriptSrc: ["'self'", "'wasm-unsafe-eval'"], // the sound core's inner loops are WebAssembly
    imgSrc: ["'self'", 'data:', 'blob:'],
    mediaSrc: ["'self'", 'blob:'],
    styleSrc: ["'self'", "'unsafe-inline'"], // positions and lengths of the time axis are style attributes
    workerSrc: ["'self'", 'blob:'],
    objectSrc: ["'none'"],
    baseUri: ["'none'"],
    formAction: ["'self'"],
    frameAncestors: ["'none'"],
  },
  referrerPolicy: 'no-referrer',
  permissionsPolicy: { microphone: ['self'], camera: ['self'], displayCapture: ['self'], geolocation: [] },
  crossOriginResourcePolicy: 'same-origin',
  xFrameOptions: 'DENY',
  // whoever sets up https for a name says so for that name, not for all below it
  strictTransportSecurity: false,
})

/** What a route says of the pages around its own. */
export interface Framed {
  /** Which other pages may show it. */
  frameAncestors?: string[]
  /** Where else it may send a form. */
  formAction?: string
}

/** Which other pages may show this one: none, but where its route says some. @see HTML Standard, "X-Frame-Options", which knows no list of them */
export const framing = createMiddleware<{ Variables: Framed }>(async (c, next) => {
  await next()
  const allowed = c.get('frameAncestors')
  if (!allowed) return
  const policy = c.res.headers.get('content-security-policy') ?? ''
  c.res.headers.set('content-security-policy', policy.replace(/frame-ancestors [^;]*/, `frame-ancestors ${allowed.join(' ')}`))
  if (allowed[0] !== "'none'") c.res.headers.delete('x-frame-options')
  const target = c.get('formAction')
  if (target === undefined) return
  const framed = c.res.headers.get('content-security-policy') ?? ''
  c.res.headers.set('content-security-policy', framed.replace("form-action 'self'", `form-action 'self' ${target}`))
})
