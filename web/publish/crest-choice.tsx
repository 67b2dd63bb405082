/** A small picture for a corner of every slide, such as a school's crest. */

import { useRef } from 'react'
import { toast } from 'sonner'
import type { Crest } from '#core/model/export-settings.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { CORNER_WORDS, CORNERS } from '#core/model/moving/small-picture.ts'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { percent } from '#web/components/format.ts'
import { pictureUrl, sentenceOf } from '#web/data/api.ts'
import { publishApi } from '#web/data/endpoints/publish.ts'
import { useExportSettings } from './use-export-settings.ts'

const FIRST = { corner: 'bottom-right', share: 0.08, opacity: 0.9 } as const

export function CrestChoice({ lecture }: { lecture: Lecture }) {
  const { crest } = lecture.exportSettings
  const change = useExportSettings(lecture)
  const [give] = publishApi.useGiveCrestMutation()
  const input = useRef<HTMLInputElement>(null)
  const take = (file: File | undefined) => {
    if (!file) return
    give({ id: lecture.id, file })
      .unwrap()
      .then(
        ({ picture }) => change({ crest: { ...FIRST, ...crest, picture } }, say('picture in the corner')),
        (error) => toast.error(sentenceOf(error)),
      )
  }
  const set = (part: Partial<Crest>) => crest && change({ crest: { ...crest, ...part } }, say('picture in the corner'))
  return (
    <div className="grid justify-items-start gap-1.5">
      <input
        ref={input}
        type="file"
        accept="image/*,.heic,.heif"
        className="hidden"
        aria-label={say('Picture for the corner')}
        onChange={(event) => {
          take(event.target.files?.[0])
          event.target.value = ''
        }}
      />
      <span className="flex flex-wrap items-center gap-2">
        {crest && (
          <img
            src={pictureUrl(crest.picture)}
            alt=""
            className="h-8 max-w-24 object-contain"
            style={{ opacity: crest.opacity }}
          />
        )}
        <Button size="xs" onClick={() => input.current?.click()}>
          {crest ? say('Another picture') : say('Choose a picture')}
        </Button>
        {crest ? (
          <button
            type="button"
            className="link"
            onClick={() => change({ crest: null }, say('taking the picture in the corner away'))}
          >
            {say('Remove it')}
          </button>
        ) : (
          <span className="text-base-content/75">{say('nothing; a crest can stand there')}</span>
        )}
      </span>
      {crest && (
        <span className="flex flex-wrap items-center gap-x-3 gap-y-1">
          <select
            aria-label={say('Corner')}
            className="select select-xs w-28 border-edge bg-base-100"
            value={crest.corner}
            onChange={({ target }) => set({ corner: target.value as Crest['corner'] })}
          >
            {CORNERS.map((corner) => (
              <option key={corner} value={corner}>
                {say(CORNER_WORDS[corner])}
              </option>
            ))}
          </select>
          <label className="flex items-center gap-1">
            {say('width')}
            <select
              className="select select-xs w-20 border-edge bg-base-100"
              value={crest.share}
              onChange={({ target }) => set({ share: Number(target.value) })}
            >
              {[...new Set([0.04, 0.06, 0.08, 0.12, 0.18, crest.share])]
                .sort((a, b) => a - b)
                .map((share) => (
                  <option key={share} value={share}>
                    {percent(share)}
                  </option>
                ))}
            </select>
          </label>
          <label className="flex items-center gap-1">
            {say('opacity')}
            <select
              className="select select-xs w-20 border-edge bg-base-100"
              value={crest.opacity}
              onChange={({ target }) => set({ opacity: Number(target.value) })}
            >
              {[...new Set([0.3, 0.5, 0.7, 0.9, 1, crest.opacity])]
                .sort((a, b) => a - b)
                .map((opacity) => (
                  <option key={opacity} value={opacity}>
                    {percent(opacity)}
                  </option>
                ))}
            </select>
          </label>
        </span>
      )}
    </div>
  )
}
