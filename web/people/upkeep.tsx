/** The server as an administrator looks after it: room, work in hand, what failed and why, who uses how much. */

import { BarElement, CategoryScale, Chart, LinearScale, Tooltip } from 'chart.js'
import { useState } from 'react'
import { Bar } from 'react-chartjs-2'
import { figure } from '#core/words/figures.ts'
import { locale, say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { clock, megabytes, moment } from '#web/components/format.ts'
import { Loading } from '#web/components/loading.tsx'
import { useColour } from '#web/components/use-colour.ts'
import { sentenceOf } from '#web/data/api.ts'
import { peopleApi, type Upkeep } from '#web/data/endpoints/people.ts'
import { TopBar } from '#web/shell/top-bar.tsx'
import { JOB_WORDS } from './job-words.ts'
import { QuotaDialog } from './quota-dialog.tsx'

Chart.register(BarElement, CategoryScale, LinearScale, Tooltip)

const EVERY_MS = 10_000
const LITTLE_BYTES = 5e9
const BAR_PX = 28
const AXIS_PX = 32

function Room({ storage, elsewhere }: Pick<Upkeep, 'storage' | 'elsewhere'>) {
  return (
    <>
      <p>
        {say(elsewhere ? 'This machine: {used} used, {free} free' : '{used} used, {free} free', {
          used: megabytes(storage.bytes),
          free: megabytes(storage.freeBytes),
        })}
      </p>
      {storage.freeBytes < LITTLE_BYTES && (
        <p role="alert" className="text-error">
          {say('There is little room left. Add some, or let old editions go: when the disk is full nothing more is recorded.')}
        </p>
      )}
      {elsewhere && <Elsewhere elsewhere={elsewhere} />}
    </>
  )
}

/** A store of files elsewhere: what is there, and what is not yet. */
function Elsewhere({ elsewhere }: { elsewhere: NonNullable<Upkeep['elsewhere']> }) {
  const { address, files, bytes, waiting, problem, damaged } = elsewhere
  return (
    <>
      <p className="mt-2">
        {say('{files, plural, one {One file} other {# files}}, {size}, in {address}', { files, size: megabytes(bytes), address })}
      </p>
      {waiting > 0 && (
        <p>
          {say(
            '{waiting, plural, one {One file is} other {# files are}} on this machine alone, and sent as soon as the line allows.',
            {
              waiting,
            },
          )}
        </p>
      )}
      {problem && (
        <p role="alert" className="text-error">
          {say(problem)}
        </p>
      )}
      {damaged > 0 && (
        <p role="alert" className="text-error">
          {say(
            '{damaged, plural, one {One file is} other {# files are}} not what was stored, and not sent. ./lectern doctor tells what they belong to.',
            {
              damaged,
            },
          )}
        </p>
      )}
    </>
  )
}

/** Who else works for this server. */
function Machines({ machines: { isUp, machines, away } }: { machines: NonNullable<Upkeep['machines']> }) {
  const ours = machines.filter(({ isSame }) => isSame)
  const others = machines.filter(({ isSame }) => !isSame)
  return (
    <div className="mb-3">
      {isUp ? (
        <p>
          {ours.length === 0
            ? say('No other machine works for this server now: all work is done here.')
            : say(
                '{machines, plural, one {One other machine works} other {# other machines work}} for this server, on {away} of {most} tasks at the same time.',
                { machines: ours.length, away, most: ours.reduce((sum, { slots }) => sum + slots, 0) },
              )}
        </p>
      ) : (
        <p role="alert" className="text-error">
          {say('Redis does not answer: all work is done on this machine meanwhile.')}
        </p>
      )}
      {others.length > 0 && (
        <p role="alert" className="text-error">
          {say('Of another version, and so given nothing: {hosts}. Bring them to the version of this server.', {
            hosts: others.map(({ host }) => host).join(', '),
          })}
        </p>
      )}
    </div>
  )
}

function Work({ work, slow, machines }: Pick<Upkeep, 'work' | 'slow' | 'machines'>) {
  return (
    <>
      {machines && <Machines machines={machines} />}
      {work.length === 0 ? (
        <p>{say('Nothing waits.')}</p>
      ) : (
        <ul>
          {work.map((row) => (
            <li key={`${row.kind} ${row.state}`}>
              {say(
                row.state === 'running'
                  ? '{what}: {count} at work, the oldest since {time}'
                  : '{what}: {count} waiting, the oldest since {time}',
                { what: say(JOB_WORDS[row.kind]), count: row.count, time: moment(row.oldestAt) },
              )}
            </li>
          ))}
        </ul>
      )}
      {slow.length > 0 && (
        <table className="mt-3 text-sm">
          <caption className="mb-1 text-start text-base-content/75">{say('From asking to having, the last seven days')}</caption>
          <thead className="text-base-content/75">
            <tr>
              <th className="pe-6 text-start font-medium">{say('Work')}</th>
              <th className="pe-6 text-end font-medium">{say('How often')}</th>
              <th className="pe-6 text-end font-medium">{say('On average')}</th>
              <th className="text-end font-medium">{say('At the most')}</th>
            </tr>
          </thead>
          <tbody>
            {slow.map((row) => (
              <tr key={row.kind} className="border-t border-base-300">
                <th scope="row" className="pe-6 text-start font-normal">
                  {say(JOB_WORDS[row.kind])}
                </th>
                <td className="pe-6 text-end">{row.count}</td>
                <td className="pe-6 text-end">{clock(row.meanMs / 1000)}</td>
                <td className="text-end">{clock(row.mostMs / 1000)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  )
}

function Failed({ failed }: Pick<Upkeep, 'failed'>) {
  if (failed.length === 0) return <p>{say('Nothing failed in the last seven days.')}</p>
  return (
    <ul className="max-h-72 overflow-auto" aria-label={say('What failed')}>
      {failed.map((row) => (
        <li key={row.id} className="border-t border-base-300 py-1.5">
          <span className="text-sm text-base-content/75">
            {moment(row.endedAt ?? 0)} · {say(JOB_WORDS[row.kind])}
            {row.owner !== null && (
              <>
                {' · '}
                <bdi>{row.owner}</bdi>
              </>
            )}
          </span>
          <br />
          {row.error === null ? say('Something went wrong. Try again.') : say(row.error)}
        </li>
      ))}
    </ul>
  )
}

type Using = Upkeep['usedBy'][number]

const usedLine = (one: Using) =>
  say('{name}: {hours} h recorded, editions of {size}', {
    name: one.name,
    hours: figure(one.recordedSeconds / 3600, 2),
    size: megabytes(one.editionsBytes),
  })

/** Somebody, or a space: what they use, and how much they may. */
function Used({ one }: { one: Using }) {
  const [shown, setShown] = useState(false)
  const title = say('Quota of {name}', { name: one.name })
  return (
    <li className="flex flex-wrap items-center gap-2">
      {usedLine(one)}
      <Button kind="ghost" size="xs" aria-label={title} onClick={() => setShown(true)}>
        {say('Quota')}
      </Button>
      {shown && <QuotaDialog of={one.id} title={title} onClose={() => setShown(false)} />}
    </li>
  )
}

function UseOfSpaces({ used }: { used: Upkeep['usedBySpaces'] }) {
  return used.length === 0 ? (
    <p>{say('There is no space yet.')}</p>
  ) : (
    <ul className="text-sm text-base-content/75">
      {used.map((one) => (
        <Used key={one.id} one={one} />
      ))}
    </ul>
  )
}

function HoursRecorded({ used }: { used: Upkeep['usedBy'] }) {
  const colour = useColour('--color-primary')
  const edge = useColour('--color-edge')
  return (
    <>
      <p className="text-sm text-base-content/75">{say('Hours recorded')}</p>
      <div style={{ height: used.length * BAR_PX + AXIS_PX }}>
        <Bar
          role="img"
          aria-label={say('Hours recorded, by person')}
          data={{
            labels: used.map((one) => one.name),
            datasets: [{ data: used.map((one) => one.recordedSeconds / 3600), backgroundColor: colour }],
          }}
          options={{
            animation: false,
            indexAxis: 'y',
            locale: locale()[0],
            maintainAspectRatio: false,
            scales: {
              x: { beginAtZero: true, grid: { color: edge } },
              y: { grid: { display: false } },
            },
            plugins: {
              legend: { display: false },
              tooltip: { callbacks: { label: ({ dataIndex }) => (used[dataIndex] ? usedLine(used[dataIndex]) : '') } },
            },
          }}
        />
      </div>
    </>
  )
}

function Use({ usedBy }: Pick<Upkeep, 'usedBy'>) {
  const all = usedBy.toSorted((a, b) => b.recordedSeconds - a.recordedSeconds)
  const using = all.filter((one) => one.recordedSeconds > 0 || one.editionsBytes > 0)
  return (
    <>
      {using.length === 0 ? <p>{say('Nobody has recorded anything yet.')}</p> : <HoursRecorded used={using} />}
      <ul className="mt-2 text-sm text-base-content/75">
        {all.map((one) => (
          <Used key={one.id} one={one} />
        ))}
      </ul>
    </>
  )
}

/** What holds for everybody who has no quota of their own. */
function QuotaOfAll() {
  const [shown, setShown] = useState(false)
  return (
    <p className="mb-3">
      <Button onClick={() => setShown(true)}>{say('Quota for everybody')}</Button>
      {shown && <QuotaDialog of={null} title={say('Quota for everybody')} onClose={() => setShown(false)} />}
    </p>
  )
}

export function UpkeepPage() {
  const { data, error } = peopleApi.useUpkeepQuery(undefined, { pollingInterval: EVERY_MS, refetchOnMountOrArgChange: true })
  const sections = data && [
    { id: 'room', title: say('Room'), content: <Room storage={data.storage} elsewhere={data.elsewhere} /> },
    { id: 'work', title: say('Work in hand'), content: <Work work={data.work} slow={data.slow} machines={data.machines} /> },
    { id: 'failed', title: say('What failed'), content: <Failed failed={data.failed} /> },
    {
      id: 'use',
      title: say('Who uses how much'),
      content: (
        <>
          <QuotaOfAll />
          <Use usedBy={data.usedBy} />
        </>
      ),
    },
    { id: 'spaces', title: say('What spaces use'), content: <UseOfSpaces used={data.usedBySpaces} /> },
  ]
  return (
    <>
      <TopBar place={say('Upkeep')} hasHeading />
      <main className="mx-auto grid w-full max-w-4xl gap-8 p-6">
        <h1 className="font-read text-2xl font-semibold">{say('Upkeep')}</h1>
        {error && <p role="alert">{sentenceOf(error)}</p>}
        {!data && !error && <Loading what={say('the server')} />}
        {sections?.map(({ id, title, content }) => (
          <section key={id} aria-labelledby={id}>
            <h2 id={id} className="mb-2 font-read text-xl font-semibold">
              {title}
            </h2>
            {content}
          </section>
        ))}
      </main>
    </>
  )
}
