/** Draws the tables of the database into docs/schema.md; `--check` fails when the page is not of this schema. */
import { readFileSync, writeFileSync } from 'node:fs'
import { is } from 'drizzle-orm'
import { getTableConfig, SQLiteTable } from 'drizzle-orm/sqlite-core'
import * as ltiSchema from '#server/db/lti-schema.ts'
import * as movingSchema from '#server/db/moving-schema.ts'
import * as peopleSchema from '#server/db/people-schema.ts'
import * as lectureSchema from '#server/db/schema.ts'
import * as voicesSchema from '#server/db/voices-schema.ts'

const PAGE = 'docs/schema.md'

const tables = Object.values({ ...lectureSchema, ...movingSchema, ...peopleSchema, ...voicesSchema, ...ltiSchema }).flatMap(
  (value) => (is(value, SQLiteTable) ? [getTableConfig(value)] : []),
)
const lines: string[] = []
for (const { name, columns, foreignKeys } of tables) {
  const references = foreignKeys.map((key) => key.reference())
  const pointing = new Set(references.flatMap(({ columns: own }) => own.map((column) => column.name)))
  lines.push(`  ${name} {`)
  for (const column of columns) {
    const key = column.primary ? ' PK' : pointing.has(column.name) ? ' FK' : ''
    const kind = column.dataType.startsWith('object') || column.dataType === 'json' ? 'json' : column.getSQLType()
    lines.push(`    ${kind} ${column.name}${key}`)
  }
  lines.push('  }')
  for (const { foreignTable, columns: own } of references)
    lines.push(`  ${getTableConfig(foreignTable).name} ||--o{ ${name} : ${own.map((column) => column.name).join(', ')}`)
}
const page = `# Tables

Made by \`npm run schema:picture\` from \`server/db/schema.ts\`, \`moving-schema.ts\`, \`people-schema.ts\`, \`voices-schema.ts\` and \`lti-schema.ts\` beside it, which say what each column means. A name of a file is its SHA-256 in
\`files/\`; what is \`json\` is described by a schema of \`core/model\` or a type beside the table.

\`\`\`mermaid
erDiagram
${lines.join('\n')}
\`\`\`
`
if (process.argv.includes('--check')) {
  if (readFileSync(PAGE, 'utf8') !== page) {
    console.error(`${PAGE} is not of this schema: npm run schema:picture`)
    process.exit(1)
  }
} else writeFileSync(PAGE, page)
