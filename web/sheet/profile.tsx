/** Lengths or paces of all slides side by side: which one is far from the rest? A click goes to its row. */

import { BarElement, CategoryScale, Chart, LinearScale, LineElement, PointElement, Tooltip } from 'chart.js'
import { useState } from 'react'
import { Bar } from 'react-chartjs-2'
import { COMFORTABLE_PACE, outliers, type SlideProfile } from '#core/timing/profile.ts'
import { locale, say } from '#core/words/say.ts'
import { clock } from '#web/components/format.ts'
import { useColour } from '#web/components/use-colour.ts'

Chart.register(BarElement, CategoryScale, LinearScale, LineElement, PointElement, Tooltip)

type Shows = 'length' | 'pace'

function said(profile: readonly SlideProfile[], shows: Shows): string {
  const values = profile.map(
    (s) => `${s.number}: ${shows === 'length' ? clock(s.seconds) : s.pace ? Math.round(s.pace) : 'none'}`,
  )
  return `${shows === 'length' ? say('Lengths of the slides') : say('Words a minute on the slides')}: ${values.join(', ')}`
}

export function Profile({ profile, onChoose }: { profile: SlideProfile[]; onChoose: (slideId: string) => void }) {
  const [shows, setShows] = useState<Shows>('length')
  const spoken = useColour('--color-primary')
  const silent = useColour('--color-edge')
  const standsOut = useColour('--color-secondary')
  const band = useColour('--color-base-300')
  const far = outliers(profile)
  const striking = new Set(far.filter((o) => o.by === shows).map((o) => o.slideId))
  const colour = (s: SlideProfile) => (striking.has(s.slideId) ? standsOut : s.spoken ? spoken : silent)
  const { slowest, fastest } = COMFORTABLE_PACE
  const flat = {
    borderWidth: { top: 2, left: 0, right: 0, bottom: 0 },
    categoryPercentage: 0.94,
    barPercentage: 1,
    grouped: false,
  }
  return (
    <div className="flex min-w-0 grow items-stretch gap-3">
      <div className="flex flex-col justify-center text-xs" role="radiogroup" aria-label={say('What the bars show')}>
        {(['length', 'pace'] as const).map((value) => (
          <label key={value} className="flex h-7 items-center gap-1.5">
            <input
              type="radio"
              name="profile"
              className="radio radio-xs border-edge"
              checked={shows === value}
              onChange={() => setShows(value)}
            />
            {value === 'length' ? say('Length') : say('Words/min')}
          </label>
        ))}
      </div>
      <div className="min-w-0 grow">
        <div className="h-14 min-w-0">
          <Bar
            aria-label={said(profile, shows)}
            role="img"
            data={{
              labels: profile.map((s) => String(s.number)),
              datasets: [
                {
                  data: profile.map((s) => (shows === 'length' ? s.seconds : (s.pace ?? 0))),
                  backgroundColor: profile.map((s) =>
                    s.spoken ? `color-mix(in srgb, ${colour(s)} 30%, transparent)` : 'transparent',
                  ),
                  borderColor: profile.map(colour),
                  ...flat,
                },
                {
                  // what the scripts promise, where nothing is spoken yet or the voice differs; or the comfortable band
                  data: profile.map((s) => (shows === 'length' ? s.expectedSeconds : null)),
                  backgroundColor: 'transparent',
                  borderColor: silent,
                  ...flat,
                  borderWidth: { top: 1, left: 0, right: 0, bottom: 0 },
                },
              ],
            }}
            options={{
              animation: false,
              locale: locale()[0],
              maintainAspectRatio: false,
              events: ['mousemove', 'mouseout', 'click'],
              onClick: (_, [bar]) => bar && onChoose(profile[bar.index]!.slideId),
              scales: {
                x: { display: false },
                y: { display: false, beginAtZero: true, ...(shows === 'pace' ? { suggestedMax: fastest * 1.3 } : {}) },
              },
              plugins: {
                tooltip: {
                  displayColors: false,
                  callbacks: {
                    title: ([item]) => say('Slide {number}', { number: item?.label ?? '' }),
                    label: (item) => {
                      const words =
                        shows === 'length'
                          ? clock(Number(item.raw))
                          : say('{rate} words a minute', { rate: Math.round(Number(item.raw)) })
                      return item.datasetIndex === 1
                        ? say('by its script about {time}', { time: clock(Number(item.raw), 0) })
                        : words
                    },
                  },
                },
              },
            }}
            plugins={[
              {
                id: 'comfortable-band',
                beforeDatasetsDraw({ ctx, chartArea, scales }) {
                  if (shows !== 'pace' || !chartArea) return
                  const top = scales.y!.getPixelForValue(fastest)
                  ctx.fillStyle = band
                  ctx.fillRect(chartArea.left, top, chartArea.width, scales.y!.getPixelForValue(slowest) - top)
                },
              },
            ]}
            key={shows}
          />
        </div>
        <p className="mt-0.5 flex max-h-12 flex-wrap gap-x-2 overflow-y-auto text-xs text-base-content/75">
          {far.length === 0
            ? shows === 'pace'
              ? say('Comfortable is {slowest} to {fastest} words a minute.', { slowest, fastest })
              : say('No slide stands out.')
            : far.map((o) => (
                <button
                  key={o.slideId + o.sentence}
                  type="button"
                  className="min-h-6 text-start text-secondary hover:underline"
                  onClick={() => onChoose(o.slideId)}
                >
                  {o.sentence}
                </button>
              ))}
        </p>
      </div>
    </div>
  )
}
