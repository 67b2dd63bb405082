/** What can be added to a lecture. */
import * as DropdownMenu from '@radix-ui/react-dropdown-menu'
import { ChevronDown, FileAudio, FileStack, type LucideIcon, Type, Users } from 'lucide-react'
import { useRef } from 'react'
import { useNavigate } from 'react-router'
import type { Lecture } from '#core/model/lecture.ts'
import { directionOf, language, say } from '#core/words/say.ts'
import { buttonLook } from '#web/components/button.tsx'

interface AddMenuProps {
  lecture: Lecture
  onFiles: () => void
  onCard: () => void
  onVoices: () => void
}

export function AddMenu({ lecture, onFiles, onCard, onVoices }: AddMenuProps) {
  const navigate = useNavigate()
  const chosen = useRef<() => void>(undefined)
  const trigger = useRef<HTMLButtonElement>(null)
  const items: [Icon: LucideIcon, words: string, act: () => void][] = [
    [Type, say('A text slide at the end'), onCard],
    [FileAudio, say('Sound files: for slides, or music'), onFiles],
    [FileStack, say('A new version of the deck'), onFiles],
    [Users, say('Other voices: a guest or a class'), onVoices],
    [FileAudio, say('One recording of the whole lecture'), () => void navigate(`/lectures/${lecture.id}/divide`)],
  ]
  return (
    <DropdownMenu.Root dir={directionOf(language())} modal={false}>
      <DropdownMenu.Trigger ref={trigger} className={buttonLook()}>
        {say('Add')} <ChevronDown size={14} aria-hidden />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={4}
          collisionPadding={8}
          onCloseAutoFocus={(event) => {
            if (!chosen.current) return
            // a dialog that it opens gives the focus back to where it was: to what opened the menu, and not to an entry that is gone
            event.preventDefault()
            trigger.current?.focus()
            chosen.current()
            chosen.current = undefined
          }}
          className="z-40 w-72 rounded-md border border-edge bg-base-100 p-1 shadow-lg"
        >
          {items.map(([Icon, words, act]) => (
            <DropdownMenu.Item
              key={words}
              onSelect={() => {
                chosen.current = act
              }}
              className="flex min-h-9 cursor-pointer items-center gap-2 rounded px-3 text-sm outline-none data-highlighted:bg-base-300"
            >
              <Icon size={16} aria-hidden className="shrink-0" /> {words}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}
