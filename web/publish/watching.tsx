/** What is watched of an edition, as one strip over the lecture. */
import { BarElement, CategoryScale, Chart, LinearScale, Tooltip } from 'chart.js'
import { Bar } from 'react-chartjs-2'
import { BIN_S, mostAt } from '#core/watching/watching.ts'
import { say } from '#core/words/say.ts'
import { clock } from '#web/components/format.ts'
import { useColour } from '#web/components/use-colour.ts'
import type { Edition } from '#web/data/api.ts'

Chart.register(CategoryScale, LinearScale, BarElement, Tooltip)

function Most({ edition, counts, words }: { edition: Edition; counts: number[]; words: (slide: number) => string }) {
  const slide = mostAt(counts, edition.slideStarts)
  return slide === null ? null : <p>{words(slide + 1)}</p>
}

/** Nothing where nothing was counted. */
export function Watching({ edition }: { edition: Edition }) {
  const colour = useColour('--color-primary')
  const { watching, slideStarts } = edition
  if (!watching) return null
  const slideAt = (seconds: number) =>
    Math.max(
      0,
      slideStarts.findLastIndex((start) => start <= seconds),
    ) + 1
  return (
    <div className="py-1 text-sm">
      <p>{say('How often each part was played')}</p>
      <div className="h-14">
        <Bar
          role="img"
          aria-label={say('How often each part was played')}
          data={{
            labels: watching.played.map((_, bin) =>
              say('{at}, slide {slide}', { at: clock(bin * BIN_S, 0), slide: slideAt(bin * BIN_S) }),
            ),
            datasets: [
              {
                data: watching.played.map((times) => Math.round(times * 10) / 10),
                backgroundColor: colour,
                barPercentage: 1,
                categoryPercentage: 1,
              },
            ],
          }}
          options={{
            animation: false,
            maintainAspectRatio: false,
            plugins: { legend: { display: false } },
            scales: { x: { display: false }, y: { display: false, beginAtZero: true } },
          }}
        />
      </div>
      <Most edition={edition} counts={watching.back} words={(slide) => say('Most went back to slide {slide}.', { slide })} />
      <Most edition={edition} counts={watching.left} words={(slide) => say('Most stopped at slide {slide}.', { slide })} />
    </div>
  )
}
