/** What a package tells its platform, whatever that speaks. */
import type { KeptListening, Progress } from '#core/packages/listening.ts'

export interface Report {
  /** @returns what the platform kept; null where it does not answer */
  begin(): Promise<KeptListening | null>
  tell(progress: Progress): void
  /** The page is being left. */
  end(progress: Progress): void
  /** Who learns, by the platform's name; known once it has begun. */
  readonly learner: string
  /** What cannot be told now is told later. */
  isLate: boolean
}
