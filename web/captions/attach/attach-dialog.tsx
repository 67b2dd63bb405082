/** What a caption file is: in which language, for whom, for the whole lecture or one slide. */

import { useEffect, useState } from 'react'
import { Language } from '#core/language-tag.ts'
import type { CaptionTrack } from '#core/model/caption.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { languageOfText } from '#core/script/detect-language.ts'
import { languageName } from '#core/words/language-name.ts'
import { say } from '#core/words/say.ts'
import { Dialog, DialogButtons } from '#web/components/overlay/dialog.tsx'
import type { AttachWanted } from '#web/data/api.ts'
import { LanguageChoice } from '#web/lecture-ui/language-choice.tsx'
import { type GuessedLanguage, guessLanguage, languageOfName, wordsOf } from './guess-language.ts'

interface AttachDialogProps {
  lecture: Lecture
  file: File
  /** The slide it was dropped on. */
  slideId?: string | null
  onAttach: (wanted: AttachWanted) => Promise<unknown>
  onClose: () => void
}

/** Captions that learners would get no more, since they get one track a language. */
function Displaced({
  track,
  count,
  agreed,
  onAgree,
}: {
  track: CaptionTrack
  /** Of the file; null until it was read. */
  count: number | null
  agreed: boolean
  onAgree: (agreed: boolean) => void
}) {
  const displaced = track.cues.filter((cue) => cue.text !== '').length
  return (
    <div role="alert" className="grid gap-2 rounded-md border border-secondary p-3 text-sm">
      <p>
        {say(
          track.origin === 'script'
            ? 'This lecture has {displaced, plural, one {# caption} other {# captions}} in {language} from its scripts.'
            : 'This lecture has {displaced, plural, one {# caption} other {# captions}} in {language} that were translated.',
          { displaced, language: languageName(track.language) },
        )}{' '}
        {count === null
          ? say('Learners would get the captions of this file in their place.')
          : say('Learners would get the {count, plural, one {# caption} other {# captions}} of this file in their place.', {
              count,
            })}
      </p>
      <label className="flex items-center gap-2 font-medium">
        <input
          type="checkbox"
          className="checkbox checkbox-sm border-edge"
          checked={agreed}
          onChange={({ target }) => onAgree(target.checked)}
        />
        {say('Publish this file instead')}
      </label>
    </div>
  )
}

export function AttachDialog({ lecture, file, slideId: droppedOn = null, onAttach, onClose }: AttachDialogProps) {
  const [guess, setGuess] = useState<GuessedLanguage>(() => guessLanguage(languageOfName(file.name), null, lecture.language))
  /** What somebody chose; null as long as the guess stands. */
  const [chosen, setChosen] = useState<string | null>(null)
  const [count, setCount] = useState<number | null>(null)
  const [agreed, setAgreed] = useState(false)
  const language = chosen ?? guess.language
  const setLanguage = (wanted: string) => {
    setChosen(wanted)
    setAgreed(false)
  }
  const [slideId, setSlideId] = useState(droppedOn)
  const [chapters, setChapters] = useState(/chapter/i.test(file.name))
  const [sending, setSending] = useState(false)
  useEffect(() => {
    const look = async () => {
      const text = await file.text()
      setCount(text.match(/-->/g)?.length ?? 0)
      setGuess(guessLanguage(languageOfName(file.name), await languageOfText(wordsOf(text)), lecture.language))
    }
    void look().catch(() => setCount(0))
  }, [file, lecture.language])
  const known = Language.safeParse(language).success
  const spoken = language.split('-')[0] === lecture.language.split('-')[0]
  const others = chapters ? lecture.chapterTracks : lecture.captionTracks
  const replaced = slideId === null && others.find((t) => t.origin === 'file' && t.language === language)
  // learners get one track a language: this one would be it
  const scripted = chapters
    ? undefined
    : lecture.captionTracks.find((t) => t.origin !== 'file' && t.language === language && t.cues.some((cue) => cue.text !== ''))
  return (
    <Dialog
      title={say('Attach “{name}”', { name: file.name })}
      width="max-w-lg"
      layout="grid gap-4"
      onClose={onClose}
      onSubmit={async () => {
        setSending(true)
        await onAttach({ language, kind: chapters ? 'chapters' : spoken ? 'captions' : 'subtitles', slideId })
        onClose()
      }}
    >
      <LanguageChoice
        label={say('In which language is it?')}
        value={language}
        error={known ? null : say('A language is written like en or pt-BR.')}
        onChange={setLanguage}
      />
      {guess.contradiction && chosen === null && (
        <p role="status" className="text-sm">
          {say('Its name says {byName}, and its text reads like {byText}. Choose which it is.', {
            byName: languageName(guess.contradiction.byName),
            byText: languageName(guess.contradiction.byText),
          })}
        </p>
      )}
      <label className="grid gap-1 text-sm">
        <span className="font-medium">{say('What stands in it?')}</span>
        <select
          className="select select-sm w-full border-edge bg-base-100"
          value={chapters ? 'chapters' : 'words'}
          onChange={({ target }) => setChapters(target.value === 'chapters')}
        >
          <option value="words">{say('what is said')}</option>
          <option value="chapters">{say('titles of chapters')}</option>
        </select>
      </label>
      <p className="text-sm text-base-content/75">
        {chapters
          ? say('They are published as a file of their own, beside the chapters that the slides make.')
          : spoken
            ? say('That is what is spoken: these are captions, also for those who do not hear.')
            : say('That is another language than the one spoken: these are subtitles.')}
      </p>
      <label className="grid gap-1 text-sm">
        <span className="font-medium">{say('What do its times count from?')}</span>
        <select
          className="select select-sm w-full border-edge bg-base-100"
          value={slideId ?? ''}
          onChange={({ target }) => setSlideId(target.value || null)}
        >
          <option value="">{say('the start of the lecture')}</option>
          {lecture.slides.map((slide, i) => (
            <option key={slide.id} value={slide.id}>
              {say('the start of slide {number}, {title}', { number: i + 1, title: slide.title || say('without a title') })}
            </option>
          ))}
        </select>
      </label>
      {replaced && <p className="text-sm">{say('It takes the place of “{label}”.', { label: replaced.label })}</p>}
      {scripted && <Displaced track={scripted} count={count} agreed={agreed} onAgree={setAgreed} />}
      <DialogButtons
        keep={say('Attach it')}
        disabled={!known || sending || count === null || (scripted !== undefined && !agreed)}
        onLeave={onClose}
      />
    </Dialog>
  )
}
