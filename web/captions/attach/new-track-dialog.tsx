/** Begins captions in another language: caption by caption beside those of the scripts. */

import { useEffect, useRef, useState } from 'react'
import { toast } from 'sonner'
import { Language } from '#core/model/language.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { languageName } from '#core/words/language-name.ts'
import { say } from '#core/words/say.ts'
import { DialogButtons } from '#web/components/dialog-buttons.tsx'
import { sentenceOf } from '#web/data/api.ts'
import { captionsApi } from '#web/data/endpoints/captions.ts'
import { LanguageChoice } from '#web/lecture-ui/language-choice.tsx'

interface NewTrackDialogProps {
  lecture: Lecture
  onMade: (trackId: string) => void
  onClose: () => void
}

export function NewTrackDialog({ lecture, onMade, onClose }: NewTrackDialogProps) {
  const dialog = useRef<HTMLDialogElement>(null)
  const [addTrack] = captionsApi.useAddCaptionTrackMutation()
  const taken = new Set(lecture.captionTracks.map((t) => t.language))
  const [language, setLanguage] = useState(() => ['fr', 'es', 'ar', 'en'].find((l) => !taken.has(l)) ?? 'de')
  useEffect(() => dialog.current?.showModal(), [])
  const problem = !Language.safeParse(language).success
    ? say('A language is written like en or pt-BR.')
    : language === lecture.language
      ? say('The lecture is spoken in this language.')
      : lecture.captionTracks.some((t) => t.origin === 'translation' && t.language === language)
        ? say('This translation has been begun already.')
        : null
  return (
    <dialog ref={dialog} className="modal" aria-labelledby="translation-title" onClose={onClose}>
      <form
        className="modal-box grid max-w-lg gap-4"
        onSubmit={async (event) => {
          event.preventDefault()
          try {
            const label = languageName(language)
            const made = await addTrack({ id: lecture.id, language, label, origin: 'translation', kind: 'subtitles' }).unwrap()
            onMade(made.trackId)
            dialog.current?.close()
          } catch (error) {
            toast.error(sentenceOf(error))
          }
        }}
      >
        <h2 id="translation-title" className="font-read text-xl font-semibold">
          {say('Translate the captions')}
        </h2>
        <LanguageChoice label={say('Into which language?')} value={language} onChange={setLanguage} />
        {problem && (
          <p role="alert" className="text-sm text-error">
            {problem}
          </p>
        )}
        <p className="text-sm text-base-content/75">
          {say(
            'Each caption is written beside the one it translates and is seen at the same time; when slides are recorded again, its time follows.',
          )}
        </p>
        <DialogButtons keep={say('Begin')} disabled={problem !== null} onLeave={() => dialog.current?.close()} />
      </form>
    </dialog>
  )
}
