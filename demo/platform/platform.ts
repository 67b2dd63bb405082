/**
 * A practice platform: it opens packages with an independent runtime of SCORM, takes xAPI statements, and shows what it was told. A stand-in, for
 * trying packages out and for tests; nothing of it runs otherwise.
 */

import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { serveStatic } from '@hono/node-server/serve-static'
import { Hono } from 'hono'
import { Course, documentKey, NoPackage } from './courses.ts'
import { LtiPlatform } from './lti/lti-platform.ts'
import { ltiRoutes } from './lti/routes.ts'
import { coursePage, problemPage, type Runtime, shelfPage } from './pages.ts'
import { type Json, StatementStore } from './statement-store.ts'

const runtimeFile = (name: string) => readFileSync(createRequire(import.meta.url).resolve(`scorm-again/${name}/min`))

/** What stands around a SCORM package: the runtime, with what was told before, and where it tells what is told now. */
function runtimeOf({ id, kind, cmi }: Course): Runtime {
  const isOld = kind === 'SCORM 1.2'
  const before = JSON.stringify(cmi).replaceAll('<', '\\u003c')
  const begin = `{
  const errors = []
  const onLogMessage = (level, message) => { if (level === 'ERROR' || Number(level) >= 4) errors.push(message) }
  const api = new ${isOld ? 'Scorm12API' : 'Scorm2004API'}({ autocommit: false, logLevel: 1, onLogMessage })
  const before = ${before}
  if (before) api.loadFromJSON(before.cmi, '')
  const tell = () => navigator.sendBeacon('/packages/${id}/cmi', JSON.stringify({ cmi: api.cmi, errors: errors.splice(0) }))
  for (const event of ['${isOld ? 'LMSCommit' : 'Commit'}', '${isOld ? 'LMSFinish' : 'Terminate'}']) api.on(event, tell)
  window.${isOld ? 'API' : 'API_1484_11'} = api
}`
  return { address: `/runtime/${isOld ? 'scorm12' : 'scorm2004'}`, begin }
}

/** @param tool address of the app whose lectures are opened within its pages */
export function platformApp(tool = 'http://localhost:4870'): { app: Hono; courses: Course[]; lti: LtiPlatform } {
  const courses: Course[] = []
  const store = new StatementStore()
  const lti = new LtiPlatform(tool)
  const app = new Hono()
  const byId = (id: string) => courses.find((course) => course.id === id)
  const add = (zip: Uint8Array) => {
    const course = new Course(zip, store)
    courses.push(course)
    return course
  }
  app.get('/', (c) => c.html(shelfPage(courses)))
  app.post('/packages', async (c) => {
    const { file } = await c.req.parseBody()
    if (!(file instanceof File)) return c.html(problemPage('Choose a package first.'), 400)
    try {
      const { id } = add(new Uint8Array(await file.arrayBuffer()))
      return c.req.header('accept')?.includes('json') ? c.json({ id }) : c.redirect('/')
    } catch (error) {
      const problem = error instanceof NoPackage ? error.message : `“${file.name}” is no zip that can be read.`
      return c.html(problemPage(problem), 415)
    }
  })
  app.get('/runtime/:name{scorm12|scorm2004}', (c) =>
    c.body(runtimeFile(c.req.param('name')), 200, { 'content-type': 'text/javascript' }),
  )
  app.get('/packages/:id', (c) => {
    const course = byId(c.req.param('id'))
    if (!course) return c.html(problemPage('This package is not here any more: the platform forgets them when it ends.'), 404)
    const page = `/packages/${course.id}/files/${course.entry}`
    if (course.kind === 'SCORM 1.2' || course.kind === 'SCORM 2004') return c.html(coursePage(course, page, runtimeOf(course)))
    return c.html(coursePage(course, `${page}?${course.launch(new URL(c.req.url).origin)}`, null))
  })
  app.get('/packages/:id/told', (c) => {
    const course = byId(c.req.param('id'))
    return course ? c.json({ ...course.told(), cmi: course.cmi, statements: course.statements() }) : c.notFound()
  })
  app.post('/packages/:id/cmi', async (c) => {
    const course = byId(c.req.param('id'))
    const { cmi, errors } = JSON.parse(await c.req.text()) as { cmi: Json; errors: string[] }
    if (course) {
      course.cmi = { cmi }
      course.errors.push(...errors)
    }
    return c.body(null, 204)
  })
  app.get('/packages/:id/files/*', (c, next) => {
    const course = byId(c.req.param('id'))
    if (!course) return c.notFound() as never
    const rewriteRequestPath = (path: string) => path.slice(`/packages/${course.id}/files`.length)
    return serveStatic({ root: course.folder, rewriteRequestPath })(c, next)
  })
  app.post('/cmi5/:id/:session', (c) => c.json(byId(c.req.param('id'))?.fetchToken(c.req.param('session')) ?? {}))
  app.route(
    '/xapi',
    xapi(store, (token) => courses.some((course) => course.hasToken(token))),
  )
  app.route('/lti', ltiRoutes(lti))
  return { app, courses, lti }
}

/** @param isKnown whether a token was given to a session */
function xapi(store: StatementStore, isKnown: (token: string) => boolean): Hono {
  const app = new Hono()
  app.use('*', async (c, next) => {
    c.header('X-Experience-API-Version', '1.0.3')
    if (!c.req.header('x-experience-api-version')?.startsWith('1.0')) return c.text('X-Experience-API-Version is missing', 400)
    const [, token = ''] = /^Basic (.+)$/.exec(c.req.header('authorization') ?? '') ?? []
    if (!isKnown(token)) return c.text('This session is not known', 401)
    return next()
  })
  app.post('/statements', async (c) => {
    const given = (await c.req.json()) as Json | Json[]
    const answer = store.add(Array.isArray(given) ? given : [given])
    return answer.status === 200 ? c.json(answer.ids) : c.text(answer.faults.join('\n'), answer.status)
  })
  app.put('/statements', async (c) => {
    const answer = store.add([{ ...((await c.req.json()) as Json), id: c.req.query('statementId') }])
    return answer.status === 200 ? c.body(null, 204) : c.text(answer.faults.join('\n'), answer.status)
  })
  app.get('/statements', (c) => {
    const id = c.req.query('statementId')
    if (id) {
      const one = store.one(id)
      return one ? c.json(one) : c.notFound()
    }
    const { activity, registration, verb } = c.req.query()
    const wanted = { ...(activity && { activityId: activity }), ...(registration && { registration }), ...(verb && { verb }) }
    return c.json({ statements: store.all(wanted).toReversed(), more: '' })
  })
  for (const [path, resource] of [
    ['/activities/state', 'state'],
    ['/activities/profile', 'activity profile'],
    ['/agents/profile', 'agent profile'],
  ] as const) {
    const keyOf = (url: string) => documentKey(resource, new URL(url).searchParams)
    app.get(path, (c) => {
      const found = store.document(keyOf(c.req.url))
      return found ? c.body(found.body, 200, { 'content-type': found.type }) : c.notFound()
    })
    app.put(path, async (c) => {
      const type = c.req.header('content-type') ?? 'application/octet-stream'
      store.putDocument(keyOf(c.req.url), new Uint8Array(await c.req.arrayBuffer()), type)
      return c.body(null, 204)
    })
    app.delete(path, (c) => {
      store.deleteDocument(keyOf(c.req.url))
      return c.body(null, 204)
    })
  }
  return app
}
