/** Whether a job still waits or runs. */
import type { Job } from './api.ts'

export const isActive = (job: Job) => job.state === 'queued' || job.state === 'running'
