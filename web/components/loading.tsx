/** Shown while something is fetched. */
import { say } from '#core/words/say.ts'

export const Loading = ({ what }: { what: string }) => (
  <output className="flex items-center gap-2 p-10 text-base-content/75">
    <span className="loading loading-dots" aria-hidden="true" /> {say('Fetching {what}', { what })}
  </output>
)
