/** A new version of the deck: it is read and compared, and what it was compared with is shown. */
import { useState } from 'react'
import { toast } from 'sonner'
import type { FoundReplacement } from '#core/deck/match/replace.ts'
import { sentenceOf } from '#web/data/api.ts'
import { sheetApi } from '#web/data/endpoints/sheet.ts'
import { useJobEnd } from '#web/data/use-job-end.ts'
import { tellUnused } from '#web/lecture-ui/tell-unused.ts'

export function useNewDeck(lectureId: string) {
  const [addNewDeck] = sheetApi.useAddNewDeckMutation()
  const [readReplacement] = sheetApi.useLazyReplacementQuery()
  const [replaced, setReplaced] = useState<{ id: string; found: FoundReplacement; only: readonly string[] | null } | null>(null)
  const whenEnded = useJobEnd()
  const tell = (error: unknown) => toast.error(sentenceOf(error))
  const show = (id: string, only: readonly string[] | null) =>
    readReplacement(id)
      .unwrap()
      .then((found) => setReplaced({ id, found, only }))
      .catch(tell)
  return {
    /** What is other in the new deck; null until it was compared. */
    replaced,
    leave: () => setReplaced(null),
    /**
     * @param besides what came in the same drop and is no deck
     * @param only slides whose pictures are wanted, and nothing else of the deck; null for all of it
     */
    compare: (files: File[], besides: File[], only: readonly string[] | null) =>
      addNewDeck({ id: lectureId, files })
        .unwrap()
        .then((job) =>
          whenEnded(job, (done) => {
            if (done.kind !== 'replace' || !done.result) return
            tellUnused([...besides.map((file) => file.name), ...done.result.unmatched])
            void show(done.result.replacementId, only)
          }),
        )
        .catch(tell),
  }
}
