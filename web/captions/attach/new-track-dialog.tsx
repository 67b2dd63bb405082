/** Begins captions in another language: caption by caption beside those of the scripts. */

import { useState } from 'react'
import { toast } from 'sonner'
import { Language } from '#core/language-tag.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { languageName } from '#core/words/language-name.ts'
import { say } from '#core/words/say.ts'
import { Dialog, DialogButtons } from '#web/components/overlay/dialog.tsx'
import { sentenceOf } from '#web/data/api.ts'
import { captionsApi } from '#web/data/endpoints/captions.ts'
import { LanguageChoice } from '#web/lecture-ui/language-choice.tsx'

interface NewTrackDialogProps {
  lecture: Lecture
  onMade: (trackId: string) => void
  onClose: () => void
}

export function NewTrackDialog({ lecture, onMade, onClose }: NewTrackDialogProps) {
  const [addTrack] = captionsApi.useAddCaptionTrackMutation()
  const taken = new Set(lecture.captionTracks.map((t) => t.language))
  const [language, setLanguage] = useState(() => ['fr', 'es', 'ar', 'en'].find((l) => !taken.has(l)) ?? 'de')
  const problem = !Language.safeParse(language).success
    ? say('A language is written like en or pt-BR.')
    : language === lecture.language
      ? say('The lecture is spoken in this language.')
      : lecture.captionTracks.some((t) => t.origin === 'translation' && t.language === language)
        ? say('This translation has been begun already.')
        : null
  return (
    <Dialog
      title={say('Translate the captions')}
      width="max-w-lg"
      layout="grid gap-4"
      onClose={onClose}
      onSubmit={async () => {
        try {
          const label = languageName(language)
          const made = await addTrack({ id: lecture.id, language, label, origin: 'translation', kind: 'subtitles' }).unwrap()
          onMade(made.trackId)
          onClose()
        } catch (error) {
          toast.error(sentenceOf(error))
        }
      }}
    >
      <LanguageChoice label={say('Into which language?')} value={language} error={problem} onChange={setLanguage} />
      <p className="text-sm text-base-content/75">
        {say(
          'Each caption is written beside the one it translates and is seen at the same time; when slides are recorded again, its time follows.',
        )}
      </p>
      <DialogButtons keep={say('Begin')} disabled={problem !== null} onLeave={onClose} />
    </Dialog>
  )
}
