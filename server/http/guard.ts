/** Who may ask for what: this machine for everything, strangers for watch pages only. */
import type { HttpBindings } from '@hono/node-server'
import { createMiddleware } from 'hono/factory'
import { type Asker, askerOf, hostName, isLocalName, isLoopback } from '#server/config/asker.ts'
import type { Config } from '#server/config/config.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'

/** Paths that strangers may reach: watch pages and what their page is built of. */
const isOpen = (path: string) => /^\/(watch\/|assets\/|favicon\.svg$)/.test(path)

type Names = Pick<Config, 'publicHosts' | 'appHosts' | 'proxies'>

/** Whether somebody may have the whole app, watch pages only, or nothing. */
function admits(
  { host, address, isForwarded }: Asker,
  isTrusted: boolean,
  { publicHosts, appHosts }: Names,
): 'all' | 'watch' | 'nothing' {
  const name = hostName(host)
  if (isForwarded) {
    // a forwarder on this machine looks like this machine: without being told of it, nothing but watch pages by their name
    if (isTrusted && appHosts.includes(name)) return 'all'
    return publicHosts.includes(name) || (isTrusted && appHosts.includes(name)) ? 'watch' : 'nothing'
  }
  if (isLoopback(address)) return isLocalName(host) ? 'all' : publicHosts.includes(name) ? 'watch' : 'nothing'
  return 'watch'
}

/** Checks Host (a page elsewhere may point its own name at this address) and Origin (a page elsewhere may send forms here). */
export const guard = (names: Names) =>
  createMiddleware<{ Bindings: HttpBindings; Variables: { asker: Asker } }>(async (c, next) => {
    const asker = askerOf(c, names.proxies)
    c.set('asker', asker)
    const peer = (c.env?.incoming?.socket?.remoteAddress ?? '127.0.0.1').replace(/^::ffff:/, '')
    const admitted = admits(asker, names.proxies.includes(peer), names)
    if (admitted === 'nothing' || (admitted === 'watch' && !isOpen(c.req.path)))
      throw new UserFacingError(
        asker.isForwarded && isLoopback(peer) && names.proxies.length === 0
          ? 'This address opens nothing here: the request was forwarded, and no forwarder is set up. docs/deployment.md says how.'
          : 'This address opens nothing here.',
        404,
      )
    if (c.req.method !== 'GET' && c.req.method !== 'HEAD') {
      const origin = c.req.header('origin')
      const site = c.req.header('sec-fetch-site')
      const own = [`http://${asker.host}`, `https://${asker.host}`]
      if ((origin !== undefined && !own.includes(origin)) || site === 'cross-site')
        throw new UserFacingError('Another page tried to change something here; it was refused.', 404)
    }
    await next()
    const headers = c.res.headers
    headers.set('content-security-policy', POLICY)
    headers.set('x-content-type-options', 'nosniff')
    headers.set('referrer-policy', 'no-referrer')
    headers.set('permissions-policy', 'microphone=(self), camera=(), geolocation=()')
    headers.set('cross-origin-resource-policy', 'same-origin')
  })

const POLICY = [
  "default-src 'self'",
  "script-src 'self' 'wasm-unsafe-eval'", // the sound core's inner loops are WebAssembly
  "img-src 'self' data: blob:",
  "media-src 'self' blob:",
  "style-src 'self' 'unsafe-inline'", // positions and lengths of the time axis are style attributes
  "worker-src 'self' blob:",
  "object-src 'none'",
  "base-uri 'none'",
  "form-action 'self'",
  "frame-ancestors 'none'",
].join('; ')
