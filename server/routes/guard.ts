/** Who may ask for what: this machine for everything, strangers for watch pages only. */
import type { HttpBindings } from '@hono/node-server'
import { createMiddleware } from 'hono/factory'
import { Sentence } from '#server/sentence.ts'

const LOCAL_NAMES = new Set(['localhost', '127.0.0.1', '[::1]'])
const LOCAL_ADDRESSES = new Set(['127.0.0.1', '::1', '::ffff:127.0.0.1'])

const hostName = (host: string) => host.replace(/:\d+$/, '').toLowerCase()

/** Paths that strangers may reach: watch pages and what their page is built of. */
const isOpen = (path: string) => /^\/(watch\/|assets\/|favicon\.svg$)/.test(path)

/**
 * Checks Host (a page elsewhere may point its own name at this address) and Origin (a page elsewhere may send forms here).
 *
 * @param publicHosts names under which watch pages may be asked for
 */
export const guard = (publicHosts: readonly string[]) =>
  createMiddleware<{ Bindings: HttpBindings }>(async (c, next) => {
    const host = c.req.header('host') ?? ''
    // a request made inside a test has no socket
    const address = c.env?.incoming?.socket?.remoteAddress ?? '127.0.0.1'
    const local = LOCAL_NAMES.has(hostName(host)) && LOCAL_ADDRESSES.has(address)
    const visitor = publicHosts.includes(hostName(host)) || !LOCAL_ADDRESSES.has(address)
    if (!local && !(visitor && isOpen(c.req.path))) throw new Sentence('This address opens nothing here.', 404)
    if (c.req.method !== 'GET' && c.req.method !== 'HEAD') {
      const origin = c.req.header('origin')
      const site = c.req.header('sec-fetch-site')
      const foreign =
        (origin !== undefined && origin !== `http://${host}` && origin !== `https://${host}`) || site === 'cross-site'
      if (foreign) throw new Sentence('Another page tried to change something here; it was refused.', 404)
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
