import { Link } from 'react-router'
import { say } from '#core/words/say.ts'
import { buttonLook } from '#web/components/button.tsx'
import { TopBar } from './top-bar.tsx'

export function NotFoundPage({ sentence = say('There is nothing at this address.') }: { sentence?: string }) {
  return (
    <>
      <TopBar place={sentence} hasHeading />
      <main className="mx-auto max-w-xl p-10 text-center">
        <h1 className="font-read text-2xl">{sentence}</h1>
        <Link to="/" className={buttonLook({ kind: 'primary', size: 'md', className: 'mt-6' })}>
          {say('Go to the shelf')}
        </Link>
      </main>
    </>
  )
}
