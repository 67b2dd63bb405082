/**
 * Real voices with their words: prompts of Debian's asterisk-core-sounds-{en,fr,es} (CC-BY-SA 3.0) and the transcripts that come with
 * them. Nothing of them is committed.
 */
import { existsSync, readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { gunzipSync } from 'node:zlib'
import { sentences } from '#core/script/sentences.ts'

const VOICES = { en: 'en_US_f_Allison', fr: 'fr_CA_f_June', es: 'es_MX_f_Allison' } as const
export type PromptLanguage = keyof typeof VOICES
export const PROMPT_LANGUAGES = Object.keys(VOICES) as PromptLanguage[]

export const PROMPT_PACKAGES = PROMPT_LANGUAGES.flatMap((l) => [`asterisk-core-sounds-${l}`, `asterisk-core-sounds-${l}-g722`])

const folder = (language: PromptLanguage) => join('/usr/share/asterisk/sounds', VOICES[language])
const transcripts = (language: PromptLanguage) => `/usr/share/doc/asterisk-core-sounds-${language}/core-sounds-${language}.txt.gz`

export const hasPrompts = () => PROMPT_LANGUAGES.every((l) => existsSync(folder(l)) && existsSync(transcripts(l)))

export interface Prompt {
  path: string
  text: string
}

/**
 * Prompts of one sentence each, of so many words at least.
 *
 * @returns in the order of their names
 */
export function prompts(language: PromptLanguage, fewestWords: number): Prompt[] {
  const files = new Set(readdirSync(folder(language), { recursive: true, encoding: 'utf8' }))
  const lines = gunzipSync(readFileSync(transcripts(language)))
    .toString('utf8')
    .split('\n')
  return lines
    .flatMap((line) => {
      const [, name, text] = /^([\w./-]+):\s*(.+)$/.exec(line) ?? []
      if (!name || !text || !files.has(`${name}.g722`) || /[[\]{}<>()]/.test(text)) return []
      const said = text.replace(/\s+/g, ' ').trim()
      if (said.split(' ').length < fewestWords || sentences(said, language).length !== 1) return []
      return { path: join(folder(language), `${name}.g722`), text: /[.!?]$/.test(said) ? said : `${said}.` }
    })
    .sort((a, b) => (a.path < b.path ? -1 : 1))
}
