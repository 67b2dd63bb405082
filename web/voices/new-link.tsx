/** Makes a link to record by: for whom, and which slides. */
import { useState } from 'react'
import { toast } from 'sonner'
import type { Lecture } from '#core/model/lecture.ts'
import type { VoiceLinkKind } from '#core/voices/voice-link.ts'
import { type Message, message, say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { copyText } from '#web/components/copy-text.ts'
import { sentenceOf, thumbnailUrl } from '#web/data/api.ts'
import { recordAddress, voiceLinksApi } from '#web/data/endpoints/voices/voice-links.ts'

const KINDS: Record<VoiceLinkKind, { name: Message; about: Message }> = {
  guest: { name: message('A guest'), about: message('speaks to slides; you keep what you want of it') },
  class: {
    name: message('A class'),
    about: message('each reads or answers; you hear them in a row, with what was read of the script'),
  },
}

interface NewLinkProps {
  lecture: Lecture
  /** Slides that nobody speaks to yet. */
  silent: readonly string[]
  /** There is none yet: it is open at once. */
  isFirst: boolean
}

export function NewLink({ lecture, silent, isFirst }: NewLinkProps) {
  const [makeLink, { isLoading }] = voiceLinksApi.useMakeVoiceLinkMutation()
  const [asked, setAsked] = useState<boolean | null>(null)
  const [kind, setKind] = useState<VoiceLinkKind>('guest')
  const [name, setName] = useState('')
  const [chosen, setChosen] = useState<string[]>(() => [...silent])
  const isOpen = asked ?? isFirst
  if (!isOpen)
    return (
      <p>
        <Button kind="primary" onClick={() => setAsked(true)}>
          {say('Invite somebody else')}
        </Button>
      </p>
    )
  const make = async () => {
    const shown = name.trim() || (kind === 'class' ? say('The class') : say('A guest'))
    const slideIds = lecture.slides.map(({ id }) => id).filter((id) => chosen.includes(id))
    const made = await makeLink({ id: lecture.id, link: { kind, name: shown, slideIds } })
    if (made.error) return void toast.error(sentenceOf(made.error))
    setName('')
    setAsked(false)
    await copyText(
      recordAddress(made.data.token),
      say('The link was made and copied.'),
      say('The link was made. Copy it from the list.'),
    )
  }
  const toggle = (id: string) => setChosen((old) => (old.includes(id) ? old.filter((one) => one !== id) : [...old, id]))
  return (
    <section aria-label={say('A new link')} className="grid gap-3 rounded border border-base-300 p-3">
      <fieldset className="flex flex-wrap gap-x-6 gap-y-2 text-sm" aria-label={say('Who records')}>
        {(Object.keys(KINDS) as VoiceLinkKind[]).map((one) => (
          <label key={one} className="flex items-baseline gap-2">
            <input
              type="radio"
              name="voice-link-kind"
              className="radio radio-xs translate-y-0.5 border-edge"
              checked={kind === one}
              onChange={() => setKind(one)}
            />
            <span>
              <span className="font-medium">{say(KINDS[one].name)}</span>{' '}
              <span className="text-base-content/75">{say(KINDS[one].about)}</span>
            </span>
          </label>
        ))}
      </fieldset>
      <fieldset className="grid gap-1.5" aria-label={say('Which slides')}>
        <p className="flex flex-wrap gap-4 text-sm">
          <span className="font-medium">
            {say('{count, plural, =0 {No slide chosen} one {# slide} other {# slides}}', { count: chosen.length })}
          </span>
          <button type="button" className="link" onClick={() => setChosen(lecture.slides.map(({ id }) => id))}>
            {say('All')}
          </button>
          <button type="button" className="link" onClick={() => setChosen([...silent])}>
            {say('Those without sound')}
          </button>
          <button type="button" className="link" onClick={() => setChosen([])}>
            {say('None')}
          </button>
        </p>
        <ul className="flex max-h-44 flex-wrap gap-2 overflow-auto p-0.5">
          {lecture.slides.map((slide, i) => (
            <li key={slide.id}>
              <label
                className={`relative block cursor-pointer rounded border-2 has-focus-visible:outline-2 ${chosen.includes(slide.id) ? 'border-primary' : 'border-base-300 opacity-75'}`}
              >
                <input
                  type="checkbox"
                  className="checkbox checkbox-xs absolute start-1 top-1 border-edge bg-base-100"
                  checked={chosen.includes(slide.id)}
                  onChange={() => toggle(slide.id)}
                  aria-label={say('Slide {number}', { number: i + 1 })}
                />
                <img
                  src={thumbnailUrl(slide.steps[0]!.thumbnail)}
                  alt=""
                  className="h-14 w-25 rounded-sm bg-white object-contain"
                />
                <span className="absolute end-1 bottom-1 rounded-sm bg-base-100 px-1 text-xs">{i + 1}</span>
              </label>
            </li>
          ))}
        </ul>
      </fieldset>
      <p className="flex flex-wrap gap-2">
        <input
          className="input input-sm w-64 grow border-edge bg-base-100"
          aria-label={say('Name of the link')}
          placeholder={kind === 'class' ? say('Which class?') : say('For whom?')}
          maxLength={100}
          value={name}
          onChange={({ target }) => setName(target.value)}
        />
        <Button kind="primary" disabled={isLoading || chosen.length === 0} onClick={() => void make()}>
          {say('Make the link')}
        </Button>
      </p>
    </section>
  )
}
