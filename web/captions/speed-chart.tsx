/** How fast the captions are to be read, along the lecture. A click goes to the caption. */

import { Chart, LinearScale, LineElement, PointElement, Tooltip } from 'chart.js'
import { Line } from 'react-chartjs-2'
import { charactersASecond } from '#core/captions/checks/check-cues.ts'
import { READING } from '#core/captions/generate/break-lines.ts'
import type { LectureCue } from '#core/captions/tracks/place-cues.ts'
import { locale, say } from '#core/words/say.ts'
import { clock } from '#web/components/format.ts'
import { useColour } from '#web/components/use-colour.ts'

Chart.register(LinearScale, LineElement, PointElement, Tooltip)

export function SpeedChart({ cues, onChoose }: { cues: readonly LectureCue[]; onChoose: (cueId: string) => void }) {
  const usual = useColour('--color-primary')
  const fast = useColour('--color-error')
  const edge = useColour('--color-edge')
  const last = cues.at(-1)?.end ?? 1
  const points = cues.map((cue) => ({ x: (cue.start + cue.end) / 2, y: charactersASecond(cue) }))
  const over = points.filter((p) => p.y > READING.mostCps).length
  const level = (y: number) => ({
    data: [
      { x: 0, y },
      { x: last, y },
    ],
    borderColor: edge,
    borderWidth: 1,
    borderDash: [4, 3],
    pointRadius: 0,
    pointHitRadius: 0,
  })
  return (
    <div className="h-16">
      <Line
        role="img"
        aria-label={say('Reading speed of {cues} captions; {over} are faster than {mostCps} characters a second', {
          cues: cues.length,
          over,
          mostCps: READING.mostCps,
        })}
        data={{
          datasets: [
            {
              data: points,
              showLine: false,
              pointRadius: 2.5,
              pointHoverRadius: 4,
              pointBackgroundColor: points.map((p) => (p.y > READING.mostCps ? fast : usual)),
              pointBorderWidth: 0,
            },
            level(READING.targetCps),
            level(READING.mostCps),
          ],
        }}
        options={{
          animation: false,
          locale: locale()[0],
          maintainAspectRatio: false,
          parsing: false,
          onClick: (_, [element]) => {
            const cue = element?.datasetIndex === 0 && cues[element.index]
            if (cue) onChoose(cue.id)
          },
          scales: {
            x: { type: 'linear', min: 0, max: last, display: false },
            y: {
              min: 0,
              suggestedMax: READING.mostCps + 5,
              border: { display: false },
              grid: { display: false },
              afterBuildTicks: (axis) => {
                axis.ticks = [READING.targetCps, READING.mostCps].map((value) => ({ value }))
              },
              ticks: { color: edge, font: { size: 10 } },
            },
          },
          plugins: {
            legend: { display: false },
            tooltip: {
              displayColors: false,
              filter: (item) => item.datasetIndex === 0,
              callbacks: {
                title: ([item]) => clock(cues[item!.dataIndex]!.start),
                label: (item) => say('{y} characters a second', { y: Math.round(item.parsed.y!) }),
              },
            },
          },
        }}
      />
    </div>
  )
}
