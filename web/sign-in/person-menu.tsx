/** Who is signed in, and what they look after. */

import * as DropdownMenu from '@radix-ui/react-dropdown-menu'
import { CircleUser } from 'lucide-react'
import { useNavigate } from 'react-router'
import { toast } from 'sonner'
import { directionOf, language, say } from '#core/words/say.ts'
import { buttonLook } from '#web/components/button.tsx'
import { signInApi } from '#web/data/endpoints/sign-in.ts'
import { selectSaved } from '#web/data/history.ts'
import { store } from '#web/data/store.ts'

/** @param isNamed whether there is room for a name beside the picture */
export function PersonMenu({ isNamed }: { isNamed: boolean }) {
  const { data: me } = signInApi.useMeQuery()
  const [signOut] = signInApi.useSignOutMutation()
  const navigate = useNavigate()
  if (!me?.person) return null
  const { name, role } = me.person
  const leave = async () => {
    if (selectSaved(store.getState()) !== 'saved') {
      toast.error(say('Something is not saved yet. Wait a moment, then sign out.'))
      return
    }
    await signOut()
    // what was shown is nobody else's
    location.assign('/')
  }
  const acts = [
    { text: say('Your sign-in'), act: () => void navigate('/me') },
    ...(role === 'reviewer' ? [] : [{ text: say('Spaces'), act: () => void navigate('/spaces') }]),
    ...(role === 'administrator'
      ? [
          { text: say('People'), act: () => void navigate('/people') },
          { text: say('Upkeep'), act: () => void navigate('/upkeep') },
        ]
      : []),
    { text: say('Sign out'), act: () => void leave() },
  ]
  return (
    <DropdownMenu.Root dir={directionOf(language())} modal={false}>
      <DropdownMenu.Trigger className={buttonLook({ kind: 'ghost' })} aria-label={say('Signed in as {name}', { name })}>
        <CircleUser size={19} aria-hidden />
        {isNamed && <bdi className="max-w-32 truncate max-md:hidden">{name}</bdi>}
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={4}
          className="z-40 min-w-44 rounded-md border border-edge bg-base-100 p-1 shadow-lg"
        >
          {acts.map(({ text, act }) => (
            <DropdownMenu.Item
              key={text}
              onSelect={act}
              className="cursor-pointer rounded px-3 py-1.5 outline-none data-highlighted:bg-base-300"
            >
              {text}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}
