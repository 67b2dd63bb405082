/** The command line: the same core and server modules without a browser. */
import { run } from './run.ts'

process.exitCode = await run(process.argv.slice(2))
