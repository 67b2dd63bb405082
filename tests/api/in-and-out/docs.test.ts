/** The page of the API says what its routes take, by the schemas they check by. */
import { afterAll, beforeAll, expect, test } from 'vitest'
import { openTestApp, type TestApp } from '#tests/api/harness.ts'

interface OpenApi {
  openapi: string
  servers: { url: string }[]
  paths: Record<string, Record<string, { requestBody?: { content: Record<string, { schema: Record<string, unknown> }> } }>>
}

let app: TestApp
let said: OpenApi
beforeAll(async () => {
  app = await openTestApp()
  said = await app.read<OpenApi>('/api/docs')
})
afterAll(() => app.end())

test('every route is in it, under the address it has', () => {
  expect(said.openapi).toMatch(/^3\.1\./)
  expect(said.servers).toEqual([{ url: '/api' }])
  const routes = app.app.routes.filter(
    ({ path, method }) => /^\/api\/(?!docs)/.test(path) && !path.includes('*') && method !== 'ALL',
  )
  expect(routes.length).toBeGreaterThan(60)
  for (const { path, method } of routes) {
    const named = path
      .replace(/^\/api/, '')
      .replace(/:(\w+)(\{[^}]*\})?/g, '{$1}')
      .replace(/(.)\/$/, '$1')
    expect(Object.keys(said.paths[named] ?? said.paths[`${named}/`] ?? {}), `${method} ${named}`).toContain(method.toLowerCase())
  }
})

test('what a lecture may be changed to is said with its bounds', () => {
  const { schema } = said.paths['/lectures/{id}']!.patch!.requestBody!.content['application/json']!
  expect(schema).toMatchObject({ type: 'object', properties: { title: { type: 'string', maxLength: 200 } } })
})
