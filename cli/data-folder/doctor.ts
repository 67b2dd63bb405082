/** `lectern doctor`: whether all is well, and what to do where it is not. */

import { parseArgs } from 'node:util'
import { say } from '#core/words/say.ts'
import { configFrom } from '#server/config/config.ts'
import { type DoctorFinding, examine } from '#server/maintenance/doctor.ts'
import { print } from '../io/output.ts'
import { orUsage, Usage, usageOf } from '../io/usage.ts'

const USAGE = usageOf('lectern doctor [--quick] [--json]')
const SIGNS: Record<DoctorFinding['state'], string> = { ok: '✓', look: '!', fault: '✗' }

/** @returns 1 where something is at fault */
export async function doctor(args: string[]): Promise<number> {
  const options = { quick: { type: 'boolean', default: false }, json: { type: 'boolean', default: false } } as const
  const { values, positionals } = orUsage(args, () => parseArgs({ args, allowPositionals: true, options }), USAGE)
  if (positionals.length > 0) throw new Usage(USAGE)
  const found = await examine(configFrom(process.env, ''), !values.quick)
  if (values.json) print(JSON.stringify({ findings: found.map(({ state, finding }) => ({ state, finding: say(finding) })) }))
  else for (const { state, finding } of found) print(`${SIGNS[state]} ${say(finding)}`)
  return found.some(({ state }) => state === 'fault') ? 1 : 0
}
