/** What is set for this browser: theme and microphone; and the keys. */

import { Suspense, useEffect, useState } from 'react'
import { type Message, message, say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { soon } from '#web/components/soon.ts'
import { sentenceOf } from '#web/data/api.ts'
import { listedOnce, SceneSelect } from '#web/lecture-ui/microphone-select.tsx'
import {
  askForMicrophone,
  chooseMicrophone,
  chosenMicrophone,
  listMicrophones,
  type Microphone,
  preferredMicrophone,
} from '#web/recorder/input/microphones.ts'
import { isPracticeMicrophone } from '#web/recorder/input/practice-microphone.ts'
import { chooseQuality, chosenQuality, QUALITIES, type Quality } from '#web/recorder/input/quality.ts'
import { applyTheme, storedTheme, type Theme } from '#web/shell/theme.ts'
import { TopBar } from '#web/shell/top-bar.tsx'
import { InterfaceLanguage } from '#web/words/interface-language.tsx'
import { KeySettings } from './key-settings.tsx'
import { Platforms } from './platforms.tsx'
import { Recognisers } from './recognisers.tsx'
import { Storage } from './storage.tsx'

const MicrophoneCheck = soon(async () => (await import('#web/microphone/microphone-check.tsx')).MicrophoneCheck)

const THEMES: [Theme, Message][] = [
  ['system', message('As the system has it')],
  ['lectern-day', message('Day')],
  ['lectern-night', message('Night')],
]

function ThemeChoice() {
  const [theme, setTheme] = useState<Theme>(storedTheme)
  return (
    <fieldset>
      <legend className="mb-2 font-read text-xl font-semibold">{say('Theme')}</legend>
      {THEMES.map(([value, name]) => (
        <label key={value} className="flex items-center gap-2 py-1">
          <input
            type="radio"
            name="theme"
            className="radio radio-sm border-edge"
            checked={theme === value}
            onChange={() => {
              setTheme(value)
              applyTheme(value)
            }}
          />
          {say(name)}
        </label>
      ))}
    </fieldset>
  )
}

export function Settings() {
  const [microphones, setMicrophones] = useState<Microphone[]>([])
  const [microphone, setMicrophone] = useState(chosenMicrophone)
  const [problem, setProblem] = useState<string | null>(null)
  const [checking, setChecking] = useState(false)
  const [quality, setQuality] = useState<Quality>(chosenQuality)
  const list = () => listMicrophones().then(setMicrophones)
  useEffect(() => {
    void listMicrophones().then(setMicrophones)
  }, [])
  const preferred = preferredMicrophone(microphones, microphone)?.id ?? null
  const choose = (id: string) => {
    chooseMicrophone(id)
    setMicrophone(id)
  }
  const ask = () =>
    askForMicrophone().then(list, (error) => setProblem(error instanceof Error ? error.message : sentenceOf(error)))
  return (
    <>
      <TopBar place={say('Settings')} hasHeading />
      <main className="mx-auto grid max-w-2xl gap-8 p-6">
        <h1 className="font-read text-2xl font-semibold">{say('Settings')}</h1>
        <ThemeChoice />
        <section aria-labelledby="language-heading">
          <h2 id="language-heading" className="mb-2 font-read text-xl font-semibold">
            {say('Language')}
          </h2>
          <InterfaceLanguage />
        </section>
        <KeySettings />
        <fieldset>
          <legend className="mb-2 font-read text-xl font-semibold">{say('Microphone')}</legend>
          {listedOnce(microphones).map((m) => {
            const isChosen = preferred === m.id || (isPracticeMicrophone(m.id) && isPracticeMicrophone(preferred ?? ''))
            return (
              <div key={m.id} className="flex items-center gap-3">
                <label className="flex items-center gap-2 py-1">
                  <input
                    type="radio"
                    name="microphone"
                    className="radio radio-sm border-edge"
                    checked={isChosen}
                    onChange={() => choose(m.id)}
                  />
                  {m.name}
                </label>
                {isChosen && isPracticeMicrophone(m.id) && <SceneSelect chosen={preferred} disabled={false} onChoose={choose} />}
              </div>
            )
          })}
          <p className="mt-2 flex gap-2">
            <Button onClick={() => setChecking(true)}>{say('Try the microphone')}</Button>
            <Button onClick={() => void ask()}>{say('Look for microphones')}</Button>
          </p>
          {problem && (
            <p role="alert" className="mt-2 text-error">
              {problem}
            </p>
          )}
          <p className="mt-2 text-sm text-base-content/75">
            {say(
              'The choice stays in this browser. The practice microphone needs no device: it reads a text in a noisy room, for trying things out.',
            )}
          </p>
        </fieldset>
        <fieldset>
          <legend className="mb-2 font-read text-xl font-semibold">{say('Recording quality')}</legend>
          {(Object.keys(QUALITIES) as Quality[]).map((value) => (
            <label key={value} className="flex items-center gap-2 py-1">
              <input
                type="radio"
                name="quality"
                className="radio radio-sm border-edge"
                checked={quality === value}
                onChange={() => {
                  setQuality(value)
                  chooseQuality(value)
                }}
              />
              <span>
                {say('{name}, about {megabytes} MB a minute', {
                  name: QUALITIES[value].name,
                  megabytes: QUALITIES[value].megabytesAMinute,
                })}
                <span className="text-base-content/75">: {say(QUALITIES[value].says)}</span>
              </span>
            </label>
          ))}
        </fieldset>
        <Recognisers />
        <Platforms />
        <Storage />
        <Suspense>
          {checking && (
            <MicrophoneCheck
              onClose={() => {
                setChecking(false)
                setMicrophone(chosenMicrophone())
              }}
            />
          )}
        </Suspense>
        <p className="text-sm text-base-content/75">{say('Press ? anywhere for the list of keys.')}</p>
      </main>
    </>
  )
}
