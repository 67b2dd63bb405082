/** Captions of what is heard in a film: attached to it, in a language that the lecture has captions in. */
import { Captions, Trash2 } from 'lucide-react'
import { useRef } from 'react'
import type { Lecture } from '#core/model/lecture.ts'
import type { Film, FilmSettings } from '#core/model/moving/film.ts'
import { languageOfText } from '#core/script/detect-language.ts'
import { languageName } from '#core/words/language-name.ts'
import { say } from '#core/words/say.ts'
import { guessLanguage, languageOfName, wordsOf } from '#web/captions/attach/guess-language.ts'
import { tellAttached, tellNotAttached } from '#web/captions/attach/use-attach-captions.ts'
import { Button } from '#web/components/button.tsx'
import { sheetApi } from '#web/data/endpoints/sheet.ts'

interface FilmCaptionsProps {
  lecture: Lecture
  film: Film
  set: (label: string, change: Partial<FilmSettings>) => void
}

export function FilmCaptions({ lecture, film, set }: FilmCaptionsProps) {
  const input = useRef<HTMLInputElement>(null)
  const [read] = sheetApi.useReadFilmCaptionsMutation()
  const { captions } = film
  const change = (next: FilmSettings['captions']) => set(say('captions'), { captions: next })
  const attach = async (file: File) => {
    try {
      const found = await languageOfText(wordsOf(await file.text()))
      const { language } = guessLanguage(languageOfName(file.name), found, lecture.language)
      const { captions: added, problems } = await read({ filmId: film.id, file, language }).unwrap()
      const before = captions.find((one) => one.language === language)
      change([...captions.filter((one) => one !== before), added])
      const told = { name: file.name, kept: added.cues.length }
      const said = before
        ? say('“{name}”: {kept, plural, one {# caption} other {# captions}} attached in place of “{before}”.', {
            ...told,
            before: before.name,
          })
        : say('“{name}”: {kept, plural, one {# caption} other {# captions}} attached.', told)
      tellAttached(said, problems)
    } catch (error) {
      tellNotAttached(error)
    }
  }
  return (
    <div className="grid gap-1 text-sm">
      <ul className="grid gap-1">
        {captions.map((own) => {
          const others = captions.filter((one) => one !== own)
          const free = lecture.captionTracks.map((track) => track.language)
          // one file a language: those of others would go
          const languages = [...new Set([own.language, ...free.filter((tag) => others.every((one) => one.language !== tag))])]
          return (
            <li key={own.language} className="flex flex-wrap items-center gap-2">
              <Captions size={16} aria-hidden className="shrink-0" />
              <span dir="auto" className="truncate">
                {own.name}
              </span>
              <span className="text-base-content/75">
                {say('{count, plural, one {# caption} other {# captions}}', { count: own.cues.length })}
              </span>
              <select
                aria-label={say('Language of {name}', { name: own.name })}
                className="select select-sm w-44 border-edge bg-base-100"
                value={own.language}
                onChange={({ target: { value: language } }) => change([...others, { ...own, language }])}
              >
                {languages.map((language) => (
                  <option key={language} value={language}>
                    {languageName(language)}
                  </option>
                ))}
              </select>
              <Button kind="ghost" square aria-label={say('Take {name} away', { name: own.name })} onClick={() => change(others)}>
                <Trash2 size={16} aria-hidden />
              </Button>
            </li>
          )
        })}
      </ul>
      {film.isMuted && <p className="text-base-content/75">{say('They are not shown while the film is silent.')}</p>}
      <input
        ref={input}
        type="file"
        accept=".vtt,.srt"
        className="hidden"
        aria-label={say('Captions of “{name}”', { name: film.name })}
        onChange={({ target }) => {
          const given = target.files?.[0]
          if (given) void attach(given)
          target.value = ''
        }}
      />
      <button type="button" className="btn btn-ghost btn-xs justify-self-start" onClick={() => input.current?.click()}>
        <Captions size={14} aria-hidden /> {say('Attach captions of the film')}
      </button>
    </div>
  )
}
