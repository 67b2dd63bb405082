/** How much somebody, or a space, may use of a school's server. */
import { z } from '#core/zod.ts'

/** Null: as much as there is, or as everybody has. */
export const Quota = z.object({
  /** Hours of all takes that are not deleted. What is recorded is kept even past them. */
  recordedHours: z.number().positive().max(100_000).nullable(),
  /** Gigabytes (10⁹ bytes) of all editions that are not deleted. */
  editionsGigabytes: z.number().positive().max(1_000_000).nullable(),
  /** Editions of each lecture; when another is made, the oldest go to the trash. Two at least: one may be played while another is made. */
  editionsKept: z.number().int().min(2).max(1000).nullable(),
})
export type Quota = z.infer<typeof Quota>

export const NO_QUOTA: Quota = { recordedHours: null, editionsGigabytes: null, editionsKept: null }

/** What is used of it. */
export interface Use {
  recordedSeconds: number
  editionsBytes: number
}

/** @returns what holds for somebody: what was set for them, and where nothing was what holds for everybody */
export const quotaOf = (own: Quota, everybody: Quota): Quota => ({
  recordedHours: own.recordedHours ?? everybody.recordedHours,
  editionsGigabytes: own.editionsGigabytes ?? everybody.editionsGigabytes,
  editionsKept: own.editionsKept ?? everybody.editionsKept,
})

/** @returns shares that are used, 1 for all of it; null where there is no bound */
export const sharesUsed = ({ recordedSeconds, editionsBytes }: Use, quota: Quota) => ({
  recorded: quota.recordedHours === null ? null : recordedSeconds / 3600 / quota.recordedHours,
  editions: quota.editionsGigabytes === null ? null : editionsBytes / 1e9 / quota.editionsGigabytes,
})

/** From this share on one is told before it is reached. */
export const NEARLY_ALL = 0.9
