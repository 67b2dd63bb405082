import { defineConfig } from 'drizzle-kit'

export default defineConfig({
  dialect: 'sqlite',
  schema: [
    './server/db/schema.ts',
    './server/db/moving-schema.ts',
    './server/db/people-schema.ts',
    './server/db/voices-schema.ts',
    './server/db/lti-schema.ts',
  ],
  out: './server/db/migrations',
})
