/** The passcode of a link. */
import { useCallback, useEffect, useRef, useState } from 'react'
import { toast } from 'sonner'
import { say } from '#core/words/say.ts'
import { drafted, draftSent } from '#web/data/history.ts'
import { useAppDispatch } from '#web/data/store.ts'
import { Field } from './field.tsx'

const LEAST_PASSCODE = 4

interface PasscodeFieldProps {
  link: { token: string; hasPasscode: boolean }
  onChange: (change: { passcode: string | null }) => Promise<boolean>
}

/**
 * A passcode as it is typed: it is set when the field is left, by Enter, and when the settings are closed or the page is gone from. One that is
 * too short is not, and that is said.
 */
export function PasscodeField({ link, onChange }: PasscodeFieldProps) {
  const dispatch = useAppDispatch()
  const field = `passcode ${link.token}`
  const [typed, setTyped] = useState('')
  const [left, setLeft] = useState(false)
  const latest = useRef({ typed, onChange })
  latest.current = { typed, onChange }
  const tooShort = typed !== '' && typed.length < LEAST_PASSCODE
  const save = useCallback(async () => {
    const { typed: passcode, onChange: change } = latest.current
    if (passcode.length < LEAST_PASSCODE) return
    latest.current = { typed: '', onChange: change }
    if (await change({ passcode })) {
      dispatch(draftSent(field))
      setTyped((now) => (now === passcode ? '' : now))
      toast(say('The passcode is set: who opens the link is asked for it.'))
    }
  }, [dispatch, field])
  useEffect(
    () => () => {
      void save()
      dispatch(draftSent(field))
    },
    [save, dispatch, field],
  )
  return (
    <form
      className="flex flex-wrap items-center gap-2"
      onSubmit={(event) => {
        event.preventDefault()
        setLeft(true)
        void save()
      }}
    >
      <Field
        label={say('Passcode')}
        layout="flex items-center gap-2"
        labelLook="w-24"
        error={
          left && tooShort
            ? say('A passcode has {least} characters at least. This one is not set.', { least: LEAST_PASSCODE })
            : null
        }
      >
        {(control) => (
          <input
            {...control}
            className="input input-xs w-44 border-edge bg-base-100"
            placeholder={link.hasPasscode ? say('set; type a new one') : say('none')}
            autoComplete="off"
            maxLength={200}
            value={typed}
            onChange={({ target }) => {
              setTyped(target.value)
              setLeft(false)
              dispatch(target.value === '' ? draftSent(field) : drafted(field))
            }}
            onBlur={() => {
              setLeft(true)
              void save()
            }}
          />
        )}
      </Field>
      {link.hasPasscode && typed === '' && (
        <button type="button" className="link" onClick={() => void onChange({ passcode: null })}>
          {say('Remove it')}
        </button>
      )}
    </form>
  )
}
