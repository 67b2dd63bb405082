import { SaidError } from '#core/words/said-error.ts'

/** A setting that cannot be used. */
export class SettingError extends SaidError {}
