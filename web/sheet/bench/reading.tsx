/** An opened row of who may not change it: what is said to the slide, and what its picture shows. */

import type { ReactNode } from 'react'
import type { Lecture } from '#core/model/lecture.ts'
import type { Slide } from '#core/model/slide.ts'
import { say } from '#core/words/say.ts'

function Text({ label, lang, className, children }: { label: string; lang: string; className: string; children: ReactNode }) {
  return (
    <div className="grid gap-1">
      <dt className="text-sm font-medium">{label}</dt>
      <dd lang={lang} dir="auto" className={`whitespace-pre-line ${className}`}>
        {children}
      </dd>
    </div>
  )
}

export function Reading({ lecture, slide, index }: { lecture: Lecture; slide: Slide; index: number }) {
  const lang = slide.language ?? lecture.language
  return (
    <section
      aria-label={say('Slide {number}, to be read', { number: index + 1 })}
      className="border-t border-base-300 px-4 pt-3 pb-5"
    >
      {slide.script.trim() === '' && <p className="mb-4 text-sm text-base-content/75">{say('no script')}</p>}
      <dl className="grid max-w-4xl gap-4">
        {slide.script.trim() !== '' && (
          <Text label={say('Script')} lang={lang} className="font-read text-lg leading-relaxed">
            {slide.script}
          </Text>
        )}
        {slide.altText.trim() !== '' && (
          <Text label={say('What the picture shows')} lang={lang} className="text-sm">
            {slide.altText}
          </Text>
        )}
      </dl>
    </section>
  )
}
