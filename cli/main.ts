/** The command line: the same core and server modules without a browser. */
import { run } from './run.ts'
import { speakSystemLanguage } from './system-language.ts'

speakSystemLanguage(process.env)
process.exitCode = await run(process.argv.slice(2))
