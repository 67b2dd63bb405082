/** What the server writes of itself: sentences for whoever started it, or a line of JSON a happening for a program that gathers them. */
import { randomUUID } from 'node:crypto'
import type { HttpBindings } from '@hono/node-server'
import { createMiddleware } from 'hono/factory'
import { type Logger, pino } from 'pino'
import type { LogForm } from '#server/config/config.ts'
import { routeOf } from '#server/http/route-of.ts'

export interface ServerLog {
  /** Of a request that was answered. */
  request(told: { requestId: string; method: string; route: string; status: number; ms: number }): void
  /** Of something we did not foresee. */
  failure(error: unknown, requestId?: string): void
}

/** @param to where lines go; standard output when absent */
export function serverLog(form: LogForm, to?: { write(line: string): void }): ServerLog {
  if (form === 'text')
    return {
      request() {},
      failure: (error, requestId) => (requestId ? console.error(`Request ${requestId}:`, error) : console.error(error)),
    }
  const logger: Logger = to ? pino({}, to) : pino({})
  return {
    request: (told) => logger.info(told, 'request'),
    failure: (error, requestId) => logger.error({ err: error, requestId }, 'failure'),
  }
}

export type Told = { Bindings: HttpBindings; Variables: { requestId: string } }

/** A number for each request, which its answer bears, and what is told of it when it is answered. */
export const requestTelling = (tell: (told: Parameters<ServerLog['request']>[0]) => void) =>
  createMiddleware<Told>(async (c, next) => {
    const requestId = randomUUID()
    c.set('requestId', requestId)
    const begun = performance.now()
    await next()
    c.header('x-request-id', requestId)
    tell({
      requestId,
      method: c.req.method,
      // as it is written, and not as it was asked for: tokens and ids are nobody's business. Files of pages share one
      route: routeOf(c)?.path ?? '/*',
      status: c.res.status,
      ms: Math.round(performance.now() - begun),
    })
  })
