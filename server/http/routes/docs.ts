/** What the API takes, as OpenAPI 3.1: made of the schemas that its routes check by. */
import { Hono } from 'hono'
import { generateSpecs } from 'hono-openapi'

const DOCUMENTATION = {
  servers: [{ url: '/api' }],
  info: {
    title: 'Tidy Lectern',
    version: '1',
    description:
      'Lectures, takes, captions and editions on this machine. Errors are `{"error": "a sentence for people"}` with a status of 400 and above. ' +
      'Files come in as multipart/form-data. What goes on is told at /api/events (server-sent events).',
  },
}

/** @param api whose routes are described */
export const docsRoutes = (api: Hono): Hono =>
  new Hono().get('/', async (c) => c.json(await generateSpecs(api, { documentation: DOCUMENTATION, includeEmptyPaths: true })))
