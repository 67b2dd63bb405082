/** Writes a text slide: heading, line, colours. */

import { zodResolver } from '@hookform/resolvers/zod'
import { useForm } from 'react-hook-form'
import { Card } from '#core/model/slide.ts'
import { type Message, message, say } from '#core/words/say.ts'
import { Field } from '#web/components/fields/field.tsx'
import { Dialog, DialogButtons } from '#web/components/overlay/dialog.tsx'

const COLOURS: Record<Card['colours'], { words: Message; ground: string; ink: string }> = {
  paper: { words: message('Paper'), ground: '#F8F5EE', ink: '#1D2A2E' },
  ink: { words: message('Ink'), ground: '#1D2A2E', ink: '#F8F5EE' },
  spruce: { words: message('Spruce'), ground: '#134A3D', ink: '#F8F5EE' },
  ochre: { words: message('Ochre'), ground: '#F3E4CC', ink: '#46290A' },
}
const EMPTY: Card = { heading: '', line: '', colours: 'spruce' }

export function CardDialog({ card, onKeep, onClose }: { card: Card | null; onKeep: (card: Card) => void; onClose: () => void }) {
  const { register, handleSubmit, watch, formState } = useForm<Card>({
    resolver: zodResolver(Card),
    defaultValues: card ?? EMPTY,
  })
  const now = watch()
  const look = COLOURS[now.colours]
  return (
    <Dialog
      title={card ? say('Change the text slide') : say('A text slide')}
      width="max-w-2xl"
      onClose={onClose}
      onSubmit={handleSubmit((kept) => {
        onKeep(kept)
        onClose()
      })}
    >
      <div className="grid grid-cols-[1fr_15rem] gap-5 max-md:grid-cols-1">
        <div className="grid content-start gap-3">
          <Field label={say('Heading')} error={formState.errors.heading?.message ?? null}>
            {(control) => <input {...control} className="input w-full border-edge bg-base-100" {...register('heading')} />}
          </Field>
          <label className="grid gap-1 text-sm">
            <span className="font-medium">{say('Line below it')}</span>
            <textarea rows={2} className="textarea w-full border-edge bg-base-100" {...register('line')} />
          </label>
          <fieldset className="flex gap-3 text-sm">
            <legend className="mb-1 font-medium">{say('Colours')}</legend>
            {Object.entries(COLOURS).map(([value, { words, ground, ink }]) => (
              <label key={value} className="flex items-center gap-1.5">
                <input type="radio" value={value} className="radio radio-xs border-edge" {...register('colours')} />
                <span className="rounded-sm border border-edge px-1.5 text-xs" style={{ background: ground, color: ink }}>
                  {say(words)}
                </span>
              </label>
            ))}
          </fieldset>
        </div>
        <div
          aria-hidden="true"
          className="flex aspect-video flex-col justify-center self-start overflow-hidden border border-edge p-4 font-read"
          style={{ background: look.ground, color: look.ink }}
        >
          <p className="text-lg leading-tight font-semibold">{now.heading || say('Heading')}</p>
          <p className="mt-2 text-xs">{now.line}</p>
        </div>
      </div>
      <DialogButtons keep={card ? say('Keep it') : say('Add it')} onLeave={onClose} />
    </Dialog>
  )
}
