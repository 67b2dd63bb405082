/** Stands before the places where a lecture is changed: who may only watch it is shown the way to its sheet. */

import { useRef } from 'react'
import { Link, Outlet, useParams } from 'react-router'
import { holds } from '#core/people/rights.ts'
import { say } from '#core/words/say.ts'
import { buttonLook } from '#web/components/button.tsx'
import { Loading } from '#web/components/loading.tsx'
import { api } from '#web/data/api.ts'
import { sharingApi } from '#web/data/endpoints/sharing.ts'
import { useRight } from '#web/sharing/use-may-change.ts'
import { isSchool } from '#web/sign-in/is-school.ts'
import { TopBar } from './top-bar.tsx'

function OnlyToWatch({ id }: { id: string }) {
  const { data: lecture } = api.useLectureQuery(id)
  return (
    <>
      <TopBar place={say('Only to watch')} lecture={lecture} />
      <main className="mx-auto grid w-full max-w-xl justify-items-start gap-4 px-6 py-16">
        <p className="font-read text-xl">
          {say('Here the lecture is changed. You may watch it and read it on its sheet; who owns it can let you change it.')}
        </p>
        <Link to={`/lectures/${id}`} className={buttonLook({ kind: 'primary', size: 'md' })}>
          {say('To the sheet')}
        </Link>
      </main>
    </>
  )
}

export function PlacesOfChange() {
  const { id } = useParams()
  const right = useRight(id)
  const { isLoading } = sharingApi.useMembersQuery(id!, { skip: !isSchool() })
  const letIn = useRef<string | null>(null)
  // what cannot be told now is refused by the server, where it must be
  if (!isLoading && (right === undefined || holds(right, 'edit'))) letIn.current = id!
  // who was let in stays until they leave: a recording may be under way
  if (letIn.current === id) return <Outlet />
  // a place opens its microphone: not before it is known that it may
  return isLoading ? <Loading what={say('the lecture')} /> : <OnlyToWatch id={id!} />
}
