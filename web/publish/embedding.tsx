/** Whether a link's page may stand in other pages, in which, and the code for it. */
import { Copy } from 'lucide-react'
import { useId, useState } from 'react'
import { embedCode } from '#core/edition/embedding/embed-code.ts'
import { originOf } from '#core/edition/embedding/site.ts'
import { say } from '#core/words/say.ts'
import { copyText } from '#web/components/copy-text.ts'
import type { Link, LinkChange } from '#web/data/api.ts'

export const addressOf = (link: Pick<Link, 'token'>) => `${location.origin}/watch/${link.token}`

type Where = 'nowhere' | 'anywhere' | 'listed'
const whereOf = (embedIn: string[] | null): Where => (embedIn === null ? 'nowhere' : embedIn.length === 0 ? 'anywhere' : 'listed')

interface EmbeddingProps {
  link: Link
  /** Of the lecture. */
  title: string
  onChange: (change: LinkChange) => Promise<boolean>
}

export function Embedding({ link, title, onChange }: EmbeddingProps) {
  const id = useId()
  const [where, setWhere] = useState(() => whereOf(link.embedIn))
  const [sites, setSites] = useState(() => (link.embedIn ?? []).join('\n'))
  /** The first that is no site: nothing of the list is kept until it is one. */
  const [wrong, setWrong] = useState<string | null>(null)
  const code = embedCode(addressOf(link), title)
  const choose = (wanted: Where) => {
    setWhere(wanted)
    // a list without a site would be every site: it counts from its first one
    if (wanted !== 'listed') void onChange({ embedIn: wanted === 'nowhere' ? null : [] }).then((kept) => !kept && setWhere(where))
    else void onChange({ embedIn: null })
  }
  const save = () => {
    const embedIn = sites.split(/[\s,]+/).filter(Boolean)
    const wrong = embedIn.find((site) => originOf(site, (text) => new URL(text)) === null)
    setWrong(wrong ?? null)
    if (wrong === undefined) void onChange({ embedIn: embedIn.length === 0 ? null : embedIn })
  }
  const copy = () =>
    copyText(code, say('The code was copied.'), say('The browser did not allow copying. Mark the code and copy it.'))
  return (
    <div className="grid gap-2">
      <label className="flex flex-wrap items-center gap-2">
        <span className="w-24">{say('In other pages')}</span>
        <select
          className="select select-xs w-44 border-edge bg-base-100"
          value={where}
          onChange={({ target }) => choose(target.value as Where)}
        >
          <option value="nowhere">{say('not shown')}</option>
          <option value="anywhere">{say('shown in any')}</option>
          <option value="listed">{say('only on these sites')}</option>
        </select>
      </label>
      {where === 'listed' && (
        <textarea
          rows={2}
          className="textarea textarea-xs w-full border-edge bg-base-100"
          aria-label={say('Sites that may show it, one a line')}
          placeholder="https://learn.school.example"
          dir="ltr"
          value={sites}
          onChange={({ target }) => setSites(target.value)}
          aria-invalid={wrong !== null}
          aria-describedby={wrong === null ? undefined : `${id}-wrong`}
          onBlur={save}
        />
      )}
      {where === 'listed' && wrong !== null && (
        <p id={`${id}-wrong`} role="alert" className="text-error">
          {say('“{wrong}” is no site, and the list is not kept. A site is written like https://learn.school.example.', { wrong })}
        </p>
      )}
      {link.embedIn !== null && (
        <>
          <label htmlFor={id}>{say('Code for the other page')}</label>
          <textarea
            id={id}
            readOnly
            rows={3}
            className="textarea textarea-xs w-full border-edge bg-base-100 font-mono"
            dir="ltr"
            value={code}
            onFocus={({ target }) => target.select()}
          />
          <button type="button" className="link flex w-fit items-center gap-1" onClick={() => void copy()}>
            <Copy size={14} aria-hidden /> {say('Copy the code')}
          </button>
          {link.hasPasscode && <p>{say('It asks for its passcode on its own page: browsers keep none within another one.')}</p>}
        </>
      )}
    </div>
  )
}
