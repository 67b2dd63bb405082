/** What is still open before publishing, the one button that makes an edition, and the editions and links there are. */
import { CircleAlert, CircleCheck, CircleDashed } from 'lucide-react'
import { useMemo } from 'react'
import { Link, useParams } from 'react-router'
import { checks, holding } from '#core/edition/checks.ts'
import type { Lecture } from '#core/lecture.ts'
import { api, sentenceOf } from '#web/shared/api.ts'
import { whereToMend } from '#web/shared/ui/check-chip.tsx'
import { Loading } from '#web/shared/ui/loading.tsx'
import { Nowhere } from '#web/shared/ui/nowhere.tsx'
import { TopBar } from '#web/shared/ui/top-bar.tsx'
import { useMend } from '#web/shared/use-mend.ts'
import { Editions } from './editions.tsx'
import { Make } from './make.tsx'

function Before({ lecture }: { lecture: Lecture }) {
  const found = useMemo(() => checks(lecture), [lecture])
  const mend = useMend(lecture)
  return (
    <section aria-labelledby="before" className="p-5">
      <h2 id="before" className="mb-2 font-read text-xl font-semibold">
        Before it goes out
      </h2>
      <ul>
        {found.map((check) => (
          <li
            key={`${check.kind} ${check.slideId}`}
            className="grid grid-cols-[1.4rem_1fr_auto] gap-x-1 border-t border-base-300 py-2.5"
          >
            {check.level === 'missing' ? (
              <CircleDashed size={16} aria-label="Missing" className="mt-1 text-error" />
            ) : (
              <CircleAlert size={16} aria-label="To look at" className="mt-1 text-secondary" />
            )}
            <span>
              {check.finding}
              <span className="block text-sm text-base-content/75">{check.advice}</span>
            </span>
            <span className="grid content-start justify-items-end gap-1">
              <Link to={whereToMend(lecture, check).to} className="font-medium text-primary hover:underline">
                {whereToMend(lecture, check).words}
              </Link>
              {check.mend && (
                <button type="button" className="btn btn-xs border-edge" onClick={() => mend(check)}>
                  {check.mend.label}
                </button>
              )}
            </span>
          </li>
        ))}
        {holding(lecture, found).map((sentence) => (
          <li key={sentence} className="grid grid-cols-[1.4rem_1fr] gap-x-1 border-t border-base-300 py-2.5">
            <CircleCheck size={16} aria-label="Fine" className="mt-1 text-success" />
            {sentence}
          </li>
        ))}
      </ul>
    </section>
  )
}

export function Publish() {
  const { id } = useParams()
  const { data: lecture, error, isLoading } = api.useLectureQuery(id!)
  const { data: published } = api.useEditionsQuery(id!)
  if (isLoading) return <Loading what="the lecture" />
  if (!lecture) return <Nowhere sentence={sentenceOf(error)} />
  return (
    <div className="flex min-h-dvh flex-col">
      <TopBar lecture={lecture} />
      <main className="grid grow grid-cols-[4fr_5fr_4fr] max-md:grid-cols-1">
        <h1 className="sr-only">Publish</h1>
        <Before lecture={lecture} />
        <Make lecture={lecture} next={(published?.editions[0]?.number ?? 0) + 1} />
        {published && <Editions lecture={lecture} editions={published.editions} links={published.links} />}
      </main>
    </div>
  )
}
