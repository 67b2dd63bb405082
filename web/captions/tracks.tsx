/** The caption tracks of a lecture: which one is looked at, which are published, files out, tracks away. */

import { Download, FileUp, Languages, Trash2 } from 'lucide-react'
import { publishedTracks } from '#core/captions/tracks/published-tracks.ts'
import type { CaptionTrack } from '#core/model/caption.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { languageName } from '#core/words/language-name.ts'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { editOrTell } from '#web/data/history.ts'
import { useAppDispatch } from '#web/data/store.ts'

interface TracksProps {
  lecture: Lecture
  chosen: CaptionTrack | undefined
  onChoose: (trackId: string) => void
  onAttach: () => void
  onTranslate: () => void
}

function state(lecture: Lecture, track: CaptionTrack, published: readonly CaptionTrack[]): string {
  const shown = track.cues.filter((cue) => cue.text !== '').length
  const how = published.includes(track) ? say('published') : shown === 0 ? say('empty') : say('a file is published instead')
  const original = lecture.captionTracks.find((t) => t.origin === 'script')
  if (track.origin !== 'translation' || !original)
    return say('{shown, plural, one {# caption} other {# captions}}, {how}', { shown, how })
  const wanted = original.cues.filter((cue) => cue.text !== '').length
  const far = published.includes(track) && shown < wanted ? say('published as far as it is') : how
  return say('{shown} of {wanted, plural, one {# caption} other {# captions}} translated, {far}', { shown, wanted, far })
}

export function Tracks({ lecture, chosen, onChoose, onAttach, onTranslate }: TracksProps) {
  const dispatch = useAppDispatch()
  const published = publishedTracks(lecture)
  const remove = (trackId: string) => {
    const deletion = (deleted: boolean) => [{ kind: 'captions-deleted' as const, trackId, deleted }]
    void dispatch(
      editOrTell({ lectureId: lecture.id, label: say('removing captions'), forth: deletion(true), back: deletion(false) }),
    )
  }
  return (
    <section aria-labelledby="tracks-title" className="text-sm">
      <h2 id="tracks-title" className="border-b border-base-300 pb-2 font-read text-lg font-semibold">
        {say('Languages')}
      </h2>
      <ul>
        {lecture.captionTracks.map((t) => (
          <li key={t.id} className="border-b border-base-300 py-2">
            <label className="flex items-center gap-2 font-medium">
              <input
                type="radio"
                name="track"
                className="radio radio-sm border-edge"
                checked={t.id === chosen?.id}
                onChange={() => onChoose(t.id)}
              />
              {languageName(t.language)}
              <span className="min-w-0 font-normal wrap-anywhere text-base-content/75">
                {{ script: say('from the scripts'), file: t.label, translation: say('translated') }[t.origin]}
              </span>
            </label>
            <p className="mt-0.5 text-base-content/75">{state(lecture, t, published)}</p>
            {t.id === chosen?.id && (
              <p className="mt-1 flex flex-wrap gap-3">
                {(['vtt', 'srt'] as const).map((format) => (
                  <a
                    key={format}
                    className="link flex items-center gap-1"
                    href={`/api/lectures/${lecture.id}/captions/${t.id}.${format}`}
                  >
                    <Download size={14} aria-hidden /> {say('Keep as .{format}', { format })}
                  </a>
                ))}
                {t.origin !== 'script' && (
                  <button type="button" className="link flex items-center gap-1" onClick={() => remove(t.id)}>
                    <Trash2 size={14} aria-hidden /> {say('Remove')}
                  </button>
                )}
              </p>
            )}
          </li>
        ))}
        {lecture.chapterTracks.map((t) => (
          <li key={t.id} className="border-b border-base-300 py-2">
            <p className="font-medium">
              {languageName(t.language)}{' '}
              <span className="font-normal text-base-content/75">{say('chapters, {label}', { label: t.label })}</span>
            </p>
            <p className="mt-0.5 text-base-content/75">
              {say('{cues, plural, one {# chapter} other {# chapters}}, published', { cues: t.cues.length })}
            </p>
            <p className="mt-1 flex flex-wrap gap-3">
              <a className="link flex items-center gap-1" href={`/api/lectures/${lecture.id}/captions/${t.id}.vtt`}>
                <Download size={14} aria-hidden /> {say('Keep as .vtt')}
              </a>
              <button type="button" className="link flex items-center gap-1" onClick={() => remove(t.id)}>
                <Trash2 size={14} aria-hidden /> {say('Remove')}
              </button>
            </p>
          </li>
        ))}
      </ul>
      <p className="mt-3 flex flex-wrap gap-2">
        <Button onClick={onAttach}>
          <FileUp size={15} aria-hidden /> {say('Attach a file')}
        </Button>
        <Button onClick={onTranslate}>
          <Languages size={15} aria-hidden /> {say('Translate')}
        </Button>
      </p>
    </section>
  )
}
