/** Proposes changes of slide off the page: an hour of speech has a thousand pauses. */
import { expose } from 'comlink'
import { propose } from './proposal.ts'

const worker = { propose }

export type ProposalWorker = typeof worker
expose(worker)
