/** Loudness and room noise of every slide in one chart: which one is louder, which room is noisier, and what tidying made of it. */

import { CategoryScale, Chart, Legend, LinearScale, LineElement, PointElement, Tooltip } from 'chart.js'
import { Line } from 'react-chartjs-2'
import type { SlideSound } from '#core/reports/lecture-sound.ts'
import { locale, say } from '#core/words/say.ts'
import { decibels, lufs } from '#web/components/format.ts'
import { useColour } from '#web/components/use-colour.ts'

Chart.defaults.font.family = 'Atkinson Hyperlegible Next Variable, sans-serif'
Chart.register(CategoryScale, LinearScale, PointElement, LineElement, Tooltip, Legend)

export function LoudnessChart({ sounds, onChoose }: { sounds: SlideSound[]; onChoose: (slideId: string) => void }) {
  const [voice, room, ink, rule] = [
    useColour('--color-primary'),
    useColour('--color-secondary'),
    useColour('--color-base-content'),
    useColour('--color-base-300'),
  ]
  const line = (label: string, values: (number | null)[], colour: string, after: boolean, shape: 'circle' | 'rect') => ({
    label,
    data: values,
    borderColor: colour,
    backgroundColor: after ? colour : 'transparent',
    pointStyle: shape,
    pointRadius: after ? 6 : 5,
    pointBorderWidth: 2,
    borderWidth: after ? 1.5 : 0,
    spanGaps: true,
  })
  return (
    <div className="h-80">
      <Line
        role="img"
        aria-label={say('Loudness and room noise of every slide; the table below has the same figures')}
        data={{
          labels: sounds.map((s) => String(s.number)),
          datasets: [
            line(
              say('Voice, tidied'),
              sounds.map((s) => s.voice.after),
              voice,
              true,
              'circle',
            ),
            line(
              say('Voice, as recorded'),
              sounds.map((s) => s.voice.before),
              voice,
              false,
              'circle',
            ),
            line(
              say('Room, as recorded'),
              sounds.map((s) => s.room.before),
              room,
              false,
              'rect',
            ),
            line(
              say('Room, tidied'),
              sounds.map((s) => s.room.after),
              room,
              true,
              'rect',
            ),
          ],
        }}
        options={{
          animation: false,
          locale: locale()[0],
          maintainAspectRatio: false,
          onClick: (_, [point]) => point && onChoose(sounds[point.index]!.slideId),
          interaction: { mode: 'index', intersect: false },
          scales: {
            x: { title: { display: true, text: say('slide'), color: ink }, ticks: { color: ink }, grid: { display: false } },
            y: {
              min: -100,
              max: 0,
              title: { display: true, text: 'dB', color: ink },
              ticks: { color: ink },
              grid: { color: rule },
            },
          },
          plugins: {
            legend: { labels: { color: ink, usePointStyle: true, boxHeight: 7, boxWidth: 14, padding: 16 } },
            tooltip: {
              callbacks: {
                title: ([item]) => say('Slide {number}', { number: item?.label ?? '' }),
                label: (item) =>
                  `${item.dataset.label}: ${item.datasetIndex < 2 ? lufs(Number(item.raw)) : decibels(Number(item.raw))}`,
              },
            },
          },
        }}
      />
    </div>
  )
}
