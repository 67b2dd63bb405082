/** What a caption file is: in which language, for whom, for the whole lecture or one slide. */
import { useEffect, useRef, useState } from 'react'
import { Language, type Lecture } from '#core/lecture.ts'
import type { AttachWanted } from '#web/shared/api.ts'
import { DialogButtons } from '#web/shared/ui/dialog-buttons.tsx'
import { LanguageChoice } from '#web/shared/ui/language-choice.tsx'

/** `lecture.fr.vtt` is in French. */
function languageOf(name: string): string | null {
  const tag = /[._-]([a-z]{2,3}(-[A-Za-z0-9]{2,8})*)\.[^.]+$/.exec(name)?.[1]
  return tag && Language.safeParse(tag).success && new Intl.DisplayNames('en', { type: 'language' }).of(tag) !== tag ? tag : null
}

interface AttachDialogProps {
  lecture: Lecture
  file: File
  /** The slide it was dropped on. */
  slideId?: string | null
  onAttach: (wanted: AttachWanted) => Promise<unknown>
  onClose: () => void
}

export function AttachDialog({ lecture, file, slideId: droppedOn = null, onAttach, onClose }: AttachDialogProps) {
  const dialog = useRef<HTMLDialogElement>(null)
  const [language, setLanguage] = useState(languageOf(file.name) ?? lecture.language)
  const [slideId, setSlideId] = useState(droppedOn)
  const [chapters, setChapters] = useState(/chapter/i.test(file.name))
  const [sending, setSending] = useState(false)
  useEffect(() => dialog.current?.showModal(), [])
  const known = Language.safeParse(language).success
  const spoken = language.split('-')[0] === lecture.language.split('-')[0]
  const others = chapters ? lecture.chapterTracks : lecture.captionTracks
  const replaced = slideId === null && others.find((t) => t.origin === 'file' && t.language === language)
  return (
    <dialog ref={dialog} className="modal" aria-labelledby="attach-title" onClose={onClose}>
      <form
        className="modal-box grid max-w-lg gap-4"
        onSubmit={async (event) => {
          event.preventDefault()
          setSending(true)
          await onAttach({ language, kind: chapters ? 'chapters' : spoken ? 'captions' : 'subtitles', slideId })
          dialog.current?.close()
        }}
      >
        <h2 id="attach-title" className="font-read text-xl font-semibold">
          Attach “{file.name}”
        </h2>
        <LanguageChoice label="In which language is it?" value={language} onChange={setLanguage} />
        {!known && (
          <p role="alert" className="text-sm text-error">
            A language is written like en or pt-BR.
          </p>
        )}
        <label className="grid gap-1 text-sm">
          <span className="font-medium">What stands in it?</span>
          <select
            className="select select-sm w-full border-edge bg-base-100"
            value={chapters ? 'chapters' : 'words'}
            onChange={({ target }) => setChapters(target.value === 'chapters')}
          >
            <option value="words">what is said</option>
            <option value="chapters">titles of chapters</option>
          </select>
        </label>
        <p className="text-sm text-base-content/75">
          {chapters
            ? 'They are published as a file of their own, beside the chapters that the slides make.'
            : spoken
              ? 'That is what is spoken: these are captions, also for those who do not hear.'
              : 'That is another language than the one spoken: these are subtitles.'}
        </p>
        <label className="grid gap-1 text-sm">
          <span className="font-medium">What do its times count from?</span>
          <select
            className="select select-sm w-full border-edge bg-base-100"
            value={slideId ?? ''}
            onChange={({ target }) => setSlideId(target.value || null)}
          >
            <option value="">the start of the lecture</option>
            {lecture.slides.map((slide, i) => (
              <option key={slide.id} value={slide.id}>
                the start of slide {i + 1}, {slide.title || 'without a title'}
              </option>
            ))}
          </select>
        </label>
        {replaced && <p className="text-sm">It takes the place of “{replaced.label}”.</p>}
        <DialogButtons keep="Attach it" disabled={!known || sending} onLeave={() => dialog.current?.close()} />
      </form>
    </dialog>
  )
}
