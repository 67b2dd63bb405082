/** The demo lecture: an invented evening course, its scripts, and which of its recordings belong to which slide. */
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { DemoLecture } from '#server/jobs/make-demo.ts'

export const DEMO_SLIDES = DemoLecture.parse(
  JSON.parse(readFileSync(join(import.meta.dirname, 'files/lecture.json'), 'utf8')),
).slides
