/** Text of many scripts beside the same text as Pango and HarfBuzz set it (Debian `pango1.0-tools`), with the same font files. */
import { afterAll, beforeAll, expect, test } from 'vitest'
import { LIKE } from '#bench/scripts/bench.ts'
import { hasJudge, type Judge, judgedLines, likeness, openJudge, ourLines, paragraphLikeness } from '#bench/scripts/judge.ts'
import { PARAGRAPHS, type TestParagraph } from '#bench/scripts/paragraphs.ts'
import { IS_LONG } from '#tests/support/long.ts'

let judge: Judge
beforeAll(async () => {
  if (!hasJudge()) throw new Error('Install pango1.0-tools and woff2: ./lectern test does')
  judge = await openJudge()
})
afterAll(() => judge.close())

/** One of each script; all of them by `./lectern test --long` and `npm run bench -- scripts`. */
const firstOfEach = PARAGRAPHS.filter(({ script }, i) => IS_LONG || PARAGRAPHS.findIndex((p) => p.script === script) === i)

test.each(firstOfEach)('$script: $text', async (paragraph) => {
  expect(await paragraphLikeness(judge, paragraph)).toBeGreaterThanOrEqual(LIKE)
})

test('words in another order are told apart', async () => {
  const arabic = PARAGRAPHS.find(({ script }) => script === 'Arabic')!
  const turned: TestParagraph = { ...arabic, text: arabic.text.split(' ').reverse().join(' ') }
  const [ours, theirs] = [await ourLines(turned), await judgedLines(judge, arabic)]
  expect(await likeness(ours[0]!, theirs[0]!)).toBeLessThan(LIKE - 0.2)
})
