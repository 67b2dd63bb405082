/** What one caption is in another language. */

import type { CaptionTrack, StoredCue } from '#core/model/caption.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { say } from '#core/words/say.ts'
import { useDraft } from '#web/data/draft/use-draft.ts'

interface TranslationFieldProps {
  lecture: Lecture
  track: CaptionTrack
  original: StoredCue
  translated: StoredCue | null
  label: string
  className: string
  onFocus: () => void
}

export function TranslationField({ lecture, track, original, translated, label, className, onFocus }: TranslationFieldProps) {
  const draft = useDraft(
    lecture.id,
    `${track.id} ${original.id}`,
    say('translation into {label}', { label: track.label }),
    translated?.text ?? '',
    (text) => [{ kind: 'translations', trackId: track.id, translated: [{ cueId: original.id, text, original: original.text }] }],
  )
  return (
    <div>
      <textarea
        aria-label={label}
        lang={track.language}
        dir="auto"
        spellCheck
        placeholder="…"
        rows={Math.max(1, draft.text.split('\n').length)}
        className={className}
        value={draft.text}
        onFocus={onFocus}
        onChange={(event) => draft.type(event.target.value)}
        onBlur={draft.leave}
      />
      {translated?.needsReview && <p className="px-2 pb-1 text-sm text-secondary">{say('The original has changed since')}</p>}
    </div>
  )
}
