/** A one-time code after the password: set up by a picture for an authenticator, with codes to keep for bad days. */

import { useEffect, useState } from 'react'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { TextField } from '#web/components/fields/text-field.tsx'
import { sentenceOf } from '#web/data/api.ts'
import { proofsApi } from '#web/data/endpoints/proofs.ts'

interface Made {
  totpUri: string
  backupCodes: string[]
}

function Picture({ uri }: { uri: string }) {
  const [svg, setSvg] = useState<string | null>(null)
  useEffect(() => {
    void import('qrcode').then(({ toString: draw }) => draw(uri, { type: 'svg', margin: 2 })).then(setSvg)
  }, [uri])
  return svg === null ? null : (
    <img
      className="size-44 border border-base-300 bg-white"
      alt={say('Picture for an authenticator; its secret stands beside it')}
      src={`data:image/svg+xml;utf8,${encodeURIComponent(svg)}`}
    />
  )
}

function Confirm({ made, onDone }: { made: Made; onDone: () => void }) {
  const [confirm] = proofsApi.useConfirmCodesMutation()
  const [code, setCode] = useState('')
  const [problem, setProblem] = useState<string | null>(null)
  return (
    <form
      className="grid max-w-xl gap-3"
      onSubmit={(event) => {
        event.preventDefault()
        void confirm(code)
          .unwrap()
          .then(onDone, (error) => setProblem(sentenceOf(error)))
      }}
    >
      <div className="flex flex-wrap gap-4">
        <Picture uri={made.totpUri} />
        <div className="grid min-w-0 flex-1 content-start gap-2 text-sm">
          <p>{say('Read the picture with an authenticator app, or type this secret there:')}</p>
          <code className="w-fit rounded bg-base-200 px-1 break-all">{new URL(made.totpUri).searchParams.get('secret')}</code>
          <p>{say('Keep these codes where you find them without this device. Each lets you in once:')}</p>
          <ul className="grid w-fit grid-cols-2 gap-x-4 rounded bg-base-200 p-2 font-mono">
            {made.backupCodes.map((code) => (
              <li key={code} className="whitespace-nowrap" dir="ltr">
                {code}
              </li>
            ))}
          </ul>
        </div>
      </div>
      <TextField
        label={say('The code that it shows now')}
        autoComplete="one-time-code"
        value={code}
        error={problem}
        onChange={({ target }) => setCode(target.value)}
      />
      <p>
        <Button type="submit" kind="primary">
          {say('Ask for codes from now on')}
        </Button>
      </p>
    </form>
  )
}

export function Codes({ isOn }: { isOn: boolean }) {
  const [begin] = proofsApi.useBeginCodesMutation()
  const [end] = proofsApi.useEndCodesMutation()
  const [made, setMade] = useState<Made | null>(null)
  const [password, setPassword] = useState('')
  const [problem, setProblem] = useState<string | null>(null)
  if (made) return <Confirm made={made} onDone={() => setMade(null)} />
  const told = (error: unknown) => setProblem(sentenceOf(error))
  const done = () => {
    setPassword('')
    setProblem(null)
  }
  return (
    <form
      className="grid max-w-sm gap-3"
      onSubmit={(event) => {
        event.preventDefault()
        if (isOn) void end(password).unwrap().then(done, told)
        else
          void begin(password)
            .unwrap()
            .then((codes) => {
              done()
              setMade(codes)
            }, told)
      }}
    >
      <p>
        {isOn
          ? say('After your password a code of your authenticator is asked for.')
          : say('Who knows your password alone cannot sign in: a code that changes every half minute is asked for as well.')}
      </p>
      <TextField
        label={isOn ? say('Your password, to end this') : say('Your password, to begin')}
        type="password"
        autoComplete="current-password"
        value={password}
        error={problem}
        onChange={({ target }) => setPassword(target.value)}
      />
      <p>
        <Button type="submit" disabled={password === ''}>
          {isOn ? say('Ask for no codes any more') : say('Set it up')}
        </Button>
      </p>
    </form>
  )
}
