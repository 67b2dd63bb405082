/** What does the work of each kind of job, and in which lane. */
import type { JobRegistry } from '#server/queue/queue.ts'
import { alignTake } from './align-take.ts'
import { importDeck } from './decks/import-deck.ts'
import { replaceDeck } from './decks/replace-deck.ts'
import { importBed, importRecording, importSound, splitRecording } from './import-sound.ts'
import { makeDemo } from './make-demo.ts'
import { moveWords } from './move-words.ts'
import { patchSentence } from './patch-sentence.ts'
import { preEncode } from './pre-encode.ts'
import { prepareFilm } from './prepare-film.ts'
import { prepareFootage } from './prepare-footage.ts'
import { publish } from './publish.ts'
import { readAnswer } from './read-answer.ts'
import { recogniseTake } from './recognise-take.ts'
import { splitSession } from './split-session.ts'
import { tidy } from './tidy-take.ts'

/** Lanes of their own: neither a long publication nor a long file must keep a fresh take from being tidied. */
export const JOB_REGISTRY: JobRegistry = {
  tidy: { lane: 'tidy', isTask: true, run: tidy },
  import: { lane: 'decks', run: importDeck },
  replace: { lane: 'decks', run: replaceDeck },
  demo: { lane: 'decks', run: makeDemo },
  align: { lane: 'sounds', isTask: true, run: alignTake },
  'read-answer': { lane: 'sounds', isTask: true, run: readAnswer },
  'import-sound': { lane: 'sounds', run: importSound },
  bed: { lane: 'sounds', run: importBed },
  recording: { lane: 'sounds', run: importRecording },
  'split-recording': { lane: 'sounds', run: splitRecording },
  'split-session': { lane: 'sounds', run: splitSession },
  'patch-sentence': { lane: 'sounds', run: patchSentence },
  'move-words': { lane: 'sounds', run: moveWords },
  film: { lane: 'films', run: prepareFilm },
  footage: { lane: 'films', run: prepareFootage },
  publish: { lane: 'publish', run: publish },
  'pre-encode': { lane: 'pre-encode', run: preEncode },
  recognise: { lane: 'recognise', run: recogniseTake },
}
