/** Courses and departments: who belongs to which, and what they may do to the lectures in it. */

import { Plus } from 'lucide-react'
import { useState } from 'react'
import { toast } from 'sonner'
import { SPACE_RIGHTS, type SpaceRight } from '#core/people/rights.ts'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { Loading } from '#web/components/loading.tsx'
import { sentenceOf } from '#web/data/api.ts'
import { peopleApi, type Space } from '#web/data/endpoints/people.ts'
import { orTell } from '#web/data/or-tell.ts'
import { SPACE_RIGHT_WORDS } from '#web/sharing/rights-words.ts'
import { TopBar } from '#web/shell/top-bar.tsx'

interface RightSelectProps {
  label: string
  value: SpaceRight
  disabled?: boolean
  onChange: (right: SpaceRight) => void
}

const RightSelect = ({ label, value, disabled = false, onChange }: RightSelectProps) => (
  <select
    className="select select-sm border-edge"
    aria-label={label}
    disabled={disabled}
    value={value}
    onChange={({ target }) => onChange(target.value as SpaceRight)}
  >
    {SPACE_RIGHTS.map((right) => (
      <option key={right} value={right}>
        {say(SPACE_RIGHT_WORDS[right])}
      </option>
    ))}
  </select>
)

function OneSpace({ space }: { space: Space }) {
  const { data: names = [] } = peopleApi.useNamesQuery()
  const [setMember] = peopleApi.useSetSpaceMemberMutation()
  const [change] = peopleApi.useChangeSpaceMutation()
  const { id, name, right, members } = space
  const manages = right === 'manage'
  const others = names.filter((person) => !members.some((one) => one.personId === person.id))
  const give = (personId: string, wanted: SpaceRight | null) => void orTell(setMember({ id, personId, right: wanted }).unwrap())
  const remove = async () => {
    if (!(await orTell(change({ id, deleted: true }).unwrap()))) return
    toast(say('The space “{name}” was closed. Its lectures stay with who owns them.', { name }), {
      action: { label: say('Undo'), onClick: () => void orTell(change({ id, deleted: false }).unwrap()) },
    })
  }
  return (
    <section aria-labelledby={`space-${id}`} className="border-t border-base-300 py-4">
      <div className="flex items-center justify-between gap-3">
        <h2 id={`space-${id}`} className="font-read text-xl font-semibold">
          <bdi>{name}</bdi>
        </h2>
        {manages && (
          <Button kind="ghost" aria-label={say('Close the space {name}', { name })} onClick={() => void remove()}>
            {say('Close it')}
          </Button>
        )}
      </div>
      <ul className="mt-2 grid gap-1" aria-label={say('Who belongs to {name}', { name })}>
        {members.map((member) => (
          <li key={member.personId} className="flex flex-wrap items-center gap-3">
            <bdi className="min-w-48">{member.name}</bdi>
            <RightSelect
              label={say('What {name} may do', { name: member.name })}
              disabled={!manages}
              value={member.right}
              onChange={(wanted) => give(member.personId, wanted)}
            />
            {manages && (
              <Button
                kind="ghost"
                size="xs"
                aria-label={say('{name} belongs here no more', { name: member.name })}
                onClick={() => give(member.personId, null)}
              >
                {say('Take out')}
              </Button>
            )}
          </li>
        ))}
      </ul>
      {manages && others.length > 0 && (
        <select
          className="select select-sm mt-2 border-edge"
          aria-label={say('Add somebody to {name}', { name })}
          value=""
          onChange={({ target }) => give(target.value, 'edit')}
        >
          <option value="">{say('Add somebody')}</option>
          {others.map((person) => (
            <option key={person.id} value={person.id}>
              {person.name}
            </option>
          ))}
        </select>
      )}
    </section>
  )
}

export function Spaces() {
  const { data: spaces, error } = peopleApi.useSpacesQuery()
  const [add] = peopleApi.useAddSpaceMutation()
  const [name, setName] = useState('')
  return (
    <>
      <TopBar place={say('Spaces')} hasHeading />
      <main className="mx-auto grid w-full max-w-3xl gap-4 p-6">
        <h1 className="font-read text-2xl font-semibold">{say('Spaces')}</h1>
        <p className="text-base-content/75">
          {say(
            'A space is a course or a department. Who belongs to it may do the same to all lectures in it. A lecture is put into one from its sheet, by Share.',
          )}
        </p>
        <form
          className="flex flex-wrap items-center gap-2"
          onSubmit={async (event) => {
            event.preventDefault()
            if (await orTell(add(name.trim()).unwrap())) setName('')
          }}
        >
          <input
            className="input border-edge bg-base-100"
            aria-label={say('Name of a new space')}
            placeholder={say('Name of a new space')}
            maxLength={100}
            value={name}
            onChange={({ target }) => setName(target.value)}
          />
          <Button type="submit" size="md" disabled={name.trim() === ''}>
            <Plus size={16} aria-hidden /> {say('Open a space')}
          </Button>
        </form>
        {error && <p role="alert">{sentenceOf(error)}</p>}
        {!spaces && !error && <Loading what={say('spaces')} />}
        <div>
          {spaces?.map((space) => (
            <OneSpace key={space.id} space={space} />
          ))}
          {spaces?.length === 0 && <p>{say('You belong to no space yet.')}</p>}
        </div>
      </main>
    </>
  )
}
