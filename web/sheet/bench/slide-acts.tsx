/** What can be done with the slide as a whole. */

import { Clapperboard, Copy, EyeOff, ImageUp, Layers, PencilLine, Trash2, Type, Ungroup } from 'lucide-react'
import { lazy, Suspense, useRef, useState } from 'react'
import type { Lecture } from '#core/model/lecture.ts'
import type { Slide } from '#core/model/slide.ts'
import { say } from '#core/words/say.ts'
import { useFilmActs } from './moving/use-film-acts.ts'
import { usePictureActs } from './use-picture-acts.ts'
import { useSlideActs } from './use-slide-acts.ts'

const CardDialog = lazy(async () => ({ default: (await import('./card-dialog.tsx')).CardDialog }))

const ACT = 'btn btn-xs btn-ghost'

export function SlideActs({ lecture, slide, number }: { lecture: Lecture; slide: Slide; number: number }) {
  const acts = useSlideActs(lecture)
  const pictures = usePictureActs(lecture)
  const films = useFilmActs()
  const file = useRef<HTMLInputElement>(null)
  const film = useRef<HTMLInputElement>(null)
  const [step, setStep] = useState(0)
  const [writing, setWriting] = useState<'new' | 'own' | null>(null)
  const next = lecture.slides[number]
  const pick = (index: number) => {
    setStep(index)
    file.current?.click()
  }
  return (
    <fieldset className="flex flex-wrap items-center gap-1" aria-label={say('Slide {number} as a whole', { number })}>
      <input
        ref={file}
        type="file"
        accept="image/*,.heic,.heif"
        className="hidden"
        aria-label={say('Another picture for slide {number}', { number })}
        onChange={({ target }) => {
          const given = target.files?.[0]
          if (given) void pictures.replacePicture(slide, Math.min(step, slide.steps.length - 1), given)
          target.value = ''
        }}
      />
      {slide.card && (
        <button type="button" className={ACT} onClick={() => setWriting('own')}>
          <PencilLine size={14} aria-hidden /> {say('Change its text')}
        </button>
      )}
      {slide.steps.length === 1 ? (
        <button type="button" className={ACT} onClick={() => pick(0)}>
          <ImageUp size={14} aria-hidden /> {say('Replace the picture')}
        </button>
      ) : (
        slide.steps.map((s, i) => (
          <button key={s.id} type="button" className={ACT} onClick={() => pick(i)}>
            <ImageUp size={14} aria-hidden /> {say('Replace picture {number}', { number: i + 1 })}
          </button>
        ))
      )}
      <input
        ref={film}
        type="file"
        accept="video/*,.mkv,.avi,.wmv,.gif,.webp"
        className="hidden"
        aria-label={say('A film for slide {number}', { number })}
        onChange={({ target }) => {
          const given = target.files?.[0]
          if (given) void films.add(slide, given)
          target.value = ''
        }}
      />
      <button type="button" className={ACT} onClick={() => film.current?.click()}>
        <Clapperboard size={14} aria-hidden /> {say('Add a film')}
      </button>
      {next && next.takes.length === 0 && (
        <button type="button" className={ACT} onClick={() => acts.join(slide)}>
          <Layers size={14} aria-hidden /> {say('Make slide {number} a step of this one', { number: number + 1 })}
        </button>
      )}
      {slide.steps.length > 1 && (
        <button type="button" className={ACT} onClick={() => void acts.separate(slide)}>
          <Ungroup size={14} aria-hidden /> {say('Make a slide of every step')}
        </button>
      )}
      <button type="button" className={ACT} onClick={() => setWriting('new')}>
        <Type size={14} aria-hidden /> {say('Text slide after this')}
      </button>
      <button type="button" className={ACT} onClick={() => void acts.copy(slide)}>
        <Copy size={14} aria-hidden /> {say('Copy')}
      </button>
      <button type="button" className={ACT} onClick={() => void acts.hide(slide)}>
        <EyeOff size={14} aria-hidden /> {slide.hidden ? say('Show to learners') : say('Hide')}
      </button>
      <button type="button" className={ACT} onClick={() => void acts.remove(slide)}>
        <Trash2 size={14} aria-hidden /> {say('Delete')}
      </button>
      <Suspense>
        {writing && (
          <CardDialog
            card={writing === 'own' ? slide.card : null}
            onKeep={(card) => void (writing === 'own' ? pictures.changeCard(slide, card) : pictures.addCard(slide.id, card))}
            onClose={() => setWriting(null)}
          />
        )}
      </Suspense>
    </fieldset>
  )
}
