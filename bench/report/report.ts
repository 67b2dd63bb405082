/** How benches tell their figures: a table for people, one JSON object with `--json`. */
import { parseArgs } from 'node:util'

export interface Figure {
  name: string
  value: number | null
  goal: string
  unit: string
  ok: boolean | null
}

export interface BenchOptions {
  json: boolean
  seed: number
  rounds: number | null
  /** Folder for what is to be looked at, by benches that draw; null where none is asked for. */
  sheets: string | null
}

export function optionsFrom(args: string[]): BenchOptions & { name: string } {
  const { values, positionals } = parseArgs({
    args,
    allowPositionals: true,
    options: {
      json: { type: 'boolean', default: false },
      seed: { type: 'string', default: '1' },
      rounds: { type: 'string' },
      sheets: { type: 'string' },
    },
  })
  return {
    name: positionals[0] ?? '',
    json: values.json,
    seed: Number(values.seed),
    rounds: values.rounds === undefined ? null : Number(values.rounds),
    sheets: values.sheets ?? null,
  }
}

const rounded = (value: number | null) => (value === null ? '–' : String(Number(value.toPrecision(4))))

/** @param figures in the order of the table; `ok` null where there is no goal */
export function tell(bench: string, figures: Figure[], json: boolean) {
  if (json) {
    console.log(JSON.stringify({ bench, figures }))
    return
  }
  const rows = [
    ['figure', 'value', 'unit', 'goal', ''],
    ...figures.map((f) => [f.name, rounded(f.value), f.unit, f.goal, f.ok === null ? '' : f.ok ? 'ok' : 'short']),
  ]
  const widths = rows[0]!.map((_, c) => Math.max(...rows.map((row) => row[c]!.length)))
  for (const row of rows) console.log(row.map((cell, c) => cell.padEnd(widths[c]!)).join('  '))
}
