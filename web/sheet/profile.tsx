/** Lengths of all slides side by side: which one is far longer than the rest? A click goes to its row. */
import { BarElement, CategoryScale, Chart, LinearScale, Tooltip } from 'chart.js'
import { Bar } from 'react-chartjs-2'
import type { Lecture } from '#core/lecture.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import type { Schedule } from '#core/timing/schedule.ts'
import { clock } from '#web/shared/format.ts'
import { useColour } from '#web/shared/use-colour.ts'

Chart.register(BarElement, CategoryScale, LinearScale, Tooltip)

export function Profile({ lecture, plan, onChoose }: { lecture: Lecture; plan: Schedule; onChoose: (index: number) => void }) {
  const spoken = useColour('--color-primary')
  const silent = useColour('--color-edge')
  const numberOf = (slideId: string) => lecture.slides.findIndex((slide) => slide.id === slideId)
  return (
    <div className="h-16 min-w-0 grow">
      <Bar
        aria-label={`Lengths of the slides: ${plan.slides.map((s) => `${numberOf(s.slideId) + 1}: ${clock(toSeconds(s.lengthSamples))}`).join(', ')}`}
        role="img"
        data={{
          labels: plan.slides.map((s) => String(numberOf(s.slideId) + 1)),
          datasets: [
            {
              data: plan.slides.map((s) => toSeconds(s.lengthSamples)),
              backgroundColor: plan.slides.map((s) =>
                s.clipSamples > 0 ? `color-mix(in srgb, ${spoken} 30%, transparent)` : 'transparent',
              ),
              borderColor: plan.slides.map((s) => (s.clipSamples > 0 ? spoken : silent)),
              borderWidth: { top: 2, left: 0, right: 0, bottom: 0 },
              categoryPercentage: 0.94,
              barPercentage: 1,
            },
          ],
        }}
        options={{
          animation: false,
          maintainAspectRatio: false,
          events: ['mousemove', 'mouseout', 'click'],
          onClick: (_, [bar]) => bar && onChoose(numberOf(plan.slides[bar.index]!.slideId)),
          scales: { x: { display: false }, y: { display: false, beginAtZero: true } },
          plugins: {
            tooltip: {
              displayColors: false,
              callbacks: { title: ([item]) => `Slide ${item?.label}`, label: (item) => clock(Number(item.raw)) },
            },
          },
        }}
      />
    </div>
  )
}
