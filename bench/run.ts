/** `npm run bench -- NAME [--json] [--seed N] [--rounds N] [--sheets FOLDER]` */
import { loadVoiceModel } from '#server/workers/load-voice-model.ts'
import { optionsFrom, tell } from './report/report.ts'

const BENCHES: Record<string, () => Promise<{ bench: typeof import('./tidy/bench.ts').bench }>> = {
  tidy: () => import('./tidy/bench.ts'),
  'tidy-speed': () => import('./tidy/speed.ts'),
  'tidy-memory': () => import('./tidy/memory.ts'),
  sheet: () => import('./sheet/bench.ts'),
  division: () => import('./sheet/division.ts'),
  script: () => import('./sheet/script.ts'),
  scripts: () => import('./scripts/bench.ts'),
  align: () => import('./align/bench.ts'),
  words: () => import('./words/bench.ts'),
  typing: () => import('./typing/bench.ts'),
  drafts: () => import('./drafts/bench.ts'),
  'words-fit': () => import('./words/fit.ts'),
  related: () => import('./align/related.ts'),
  booth: () => import('./booth/bench.ts'),
  publish: () => import('./publish/bench.ts'),
  films: () => import('./films/bench.ts'),
  'films-memory': () => import('./films/memory.ts'),
  footage: () => import('./footage/bench.ts'),
  'footage-lips': () => import('./footage/lips.ts'),
  'publish-play': () => import('./publish/play.ts'),
  watch: () => import('./watch/bench.ts'),
  launch: () => import('./launch/bench.ts'),
  decks: () => import('./decks/bench.ts'),
  fidelity: () => import('./fidelity/bench.ts'),
  faults: () => import('./faults/bench.ts'),
  backup: () => import('./backup/bench.ts'),
  school: () => import('./school/bench.ts'),
  machines: () => import('./machines/bench.ts'),
  'fresh-take': () => import('./machines/fresh-take.ts'),
  abuse: () => import('./abuse/bench.ts'),
  platforms: () => import('./platforms/bench.ts'),
  voices: () => import('./voices/bench.ts'),
  reading: () => import('./reading/bench.ts'),
}

loadVoiceModel()
const options = optionsFrom(process.argv.slice(2))
const load = BENCHES[options.name]
if (!load) {
  console.error(`Usage: npm run bench -- ${Object.keys(BENCHES).join(' | ')} [--json] [--seed N] [--rounds N] [--sheets FOLDER]`)
  process.exit(2)
}
const { bench } = await load()
tell(options.name, await bench(options), options.json)
