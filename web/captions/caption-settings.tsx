/** How the captions of a track are made, and the keys that work while they are typed. */

import { MessageSquarePlus } from 'lucide-react'
import { Link } from 'react-router'
import { LINE_CHARACTERS } from '#core/captions/generate/break-lines.ts'
import { recogniserFor } from '#core/captions/recognised/recogniser.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { captionsApi } from '#web/data/endpoints/captions.ts'
import { editOrTell } from '#web/data/history.ts'
import { useAppDispatch } from '#web/data/store.ts'
import { KEYS } from './keys.ts'
import { EAR_KEYS } from './without-script/ear-keys.ts'

interface CaptionSettingsProps {
  lecture: Lecture
  /** Captions that make themselves from the scripts. */
  isScript: boolean
  toScript: boolean
  onToScript: (toScript: boolean) => void
  isByEar: boolean
  onIsByEar: (isByEar: boolean) => void
  onAdd: () => void
}

export function CaptionSettings(props: CaptionSettingsProps) {
  const { lecture, isScript, toScript, onToScript, isByEar, onIsByEar, onAdd } = props
  const dispatch = useAppDispatch()
  const { data } = captionsApi.useRecognisersQuery()
  const lineCharacters = (value: number) =>
    void dispatch(
      editOrTell({
        lectureId: lecture.id,
        label: say('length of caption lines'),
        forth: [{ kind: 'lecture', change: { lineCharacters: value } }],
        back: [{ kind: 'lecture', change: { lineCharacters: lecture.lineCharacters } }],
      }),
    )
  return (
    <section aria-label={say('How captions are made')} className="grid gap-2 text-sm">
      {isScript && (
        <>
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              className="checkbox checkbox-xs border-edge"
              checked={toScript}
              onChange={({ target }) => onToScript(target.checked)}
            />
            {say('words changed here change the script too')}
          </label>
          <label className="flex items-center gap-2">
            {say('Characters a line')}
            <select
              className="select select-xs w-16 border-edge bg-base-100"
              value={lecture.lineCharacters}
              onChange={({ target }) => lineCharacters(Number(target.value))}
            >
              {Array.from({ length: LINE_CHARACTERS.most - LINE_CHARACTERS.least + 1 }, (_, i) => (
                <option key={i} value={LINE_CHARACTERS.least + i}>
                  {LINE_CHARACTERS.least + i}
                </option>
              ))}
            </select>
          </label>
        </>
      )}
      <Button className="w-fit" onClick={onAdd}>
        <MessageSquarePlus size={15} aria-hidden /> {say('Add a caption at the playhead')}
      </Button>
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          className="checkbox checkbox-xs border-edge"
          checked={isByEar}
          onChange={({ target }) => onIsByEar(target.checked)}
        />
        {say('typing by ear: Enter goes on and plays, words are guessed')}
      </label>
      {data && !recogniserFor(data.recognisers, lecture.language) && (
        <p className="text-base-content/75">
          {say('Nothing here can draft captions by listening in this language: slides without a script are typed by ear.')}{' '}
          <Link className="link" to="/settings#recognisers">
            {say('What could')}
          </Link>
        </p>
      )}
      <details className="text-base-content/75">
        <summary className="cursor-pointer">{say('Keys while typing')}</summary>
        <dl className="mt-1 grid grid-cols-[auto_1fr] gap-x-3">
          {[...(isByEar ? Object.values(EAR_KEYS) : []), ...Object.values(KEYS)].map((key) => (
            <div key={key.shown} className="contents">
              <dt>
                <kbd className="kbd kbd-xs">{key.shown}</kbd>
              </dt>
              <dd>{say(key.does)}</dd>
            </div>
          ))}
        </dl>
      </details>
    </section>
  )
}
