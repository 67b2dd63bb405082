/** The proposal for a question, asked of a worker; null until there is one for the present question. */
import { type Remote, wrap } from 'comlink'
import { startTransition, useEffect, useRef, useState } from 'react'
import { message } from '#core/words/say.ts'
import type { Proposal, Question } from './proposal.ts'
import type { ProposalWorker } from './proposal.worker.ts'

/** @param question keeps its identity as long as its content: each new one is asked */
export function useProposal(question: Question): Proposal | null {
  const worker = useRef<{ thread: Worker; remote: Remote<ProposalWorker> } | null>(null)
  const [answer, setAnswer] = useState<{ question: Question; proposal: Proposal } | null>(null)
  useEffect(
    () => () => {
      worker.current?.thread.terminate()
      worker.current = null
    },
    [],
  )
  useEffect(() => {
    let current = true
    if (!worker.current) {
      const thread = new Worker(new URL('./proposal.worker.ts', import.meta.url), { type: 'module' })
      worker.current = { thread, remote: wrap<ProposalWorker>(thread) }
    }
    worker.current.remote
      .propose(question)
      .catch((): Proposal => ({ boundaries: [], problem: message('Something went wrong. Try again.') }))
      // as many handles as slides: drawn in portions
      .then((proposal) => current && startTransition(() => setAnswer({ question, proposal })))
    return () => {
      current = false
    }
  }, [question])
  return answer?.question === question ? answer.proposal : null
}
