/** Which route answers a request. */
import type { Context } from 'hono'
import { matchedRoutes } from 'hono/route'

/** @returns the route as it was written, of those that match the first of its method; null where none answers but for all addresses */
export function routeOf(c: Context): { method: string; path: string } | null {
  const method = c.req.method === 'HEAD' ? 'GET' : c.req.method
  const found = matchedRoutes(c).find((route) => route.method === method)
  return found ? { method, path: found.path.replace(/\{.*?\}$/, '') } : null
}
