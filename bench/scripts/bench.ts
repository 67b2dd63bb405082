/** `npm run bench -- scripts`: paragraphs in twelve scripts beside the same ones set by Pango. */
import type { BenchOptions, Figure } from '#bench/report/report.ts'
import { type Judge, judgedLines, likeness, openJudge, ourLines, paragraphLikeness } from './judge.ts'
import { PARAGRAPHS } from './paragraphs.ts'

/** Between what the same lines come to, and what other lines of the same script do: both are measured below. */
export const LIKE = 0.6

/** The most that first lines of different paragraphs of one script are like each other. */
async function unlike(judge: Judge): Promise<number> {
  let most = 0
  for (const [i, paragraph] of PARAGRAPHS.entries()) {
    const other = PARAGRAPHS[i + 1]
    if (other?.script !== paragraph.script) continue
    const [ours, theirs] = [await ourLines(paragraph), await judgedLines(judge, other)]
    most = Math.max(most, await likeness(ours[0]!, theirs[0]!))
  }
  return most
}

export async function bench(_: BenchOptions): Promise<Figure[]> {
  const judge = await openJudge()
  try {
    const found: number[] = []
    for (const paragraph of PARAGRAPHS) {
      const like = await paragraphLikeness(judge, paragraph)
      found.push(like)
      if (like < LIKE || process.env.LECTERN_BENCH_FILES) console.error(like.toFixed(2), paragraph.script, paragraph.text)
    }
    return [
      {
        name: `paragraphs in twelve scripts drawn as the judge draws them (likeness of each line ≥ ${LIKE})`,
        value: found.filter((like) => like >= LIKE).length,
        goal: `${PARAGRAPHS.length}`,
        unit: `of ${PARAGRAPHS.length}`,
        ok: found.every((like) => like >= LIKE),
      },
      { name: 'the same: least likeness', value: Math.min(...found), goal: '–', unit: '', ok: null },
      {
        name: 'lines of other paragraphs of the same script: most likeness',
        value: await unlike(judge),
        goal: '–',
        unit: '',
        ok: null,
      },
    ]
  } finally {
    judge.close()
  }
}
