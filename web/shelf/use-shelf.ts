/** The lectures that are shown on the shelf: what was asked for stands in the address, so that one comes back to it. */
import { useSearchParams } from 'react-router'
import { type ShelfAsked, shelfApi } from '#web/data/endpoints/shelf.ts'

export function useShelf() {
  const [params, setParams] = useSearchParams()
  const asked: ShelfAsked = { words: params.get('words') ?? '', of: params.get('of') ?? '' }
  const { data, error, isLoading, hasNextPage, isFetchingNextPage, fetchNextPage } = shelfApi.useShelfInfiniteQuery(asked)
  return {
    asked,
    ask: ({ words, of }: ShelfAsked) =>
      setParams({ ...(words && { words }), ...(of && { of }) }, { replace: true, preventScrollReset: true }),
    /** Some lectures are sought, or only some are wanted. */
    isChosen: asked.words !== '' || asked.of !== '',
    first: data?.pages[0],
    entries: data?.pages.flatMap((page) => page.lectures) ?? [],
    unreadable: data?.pages.flatMap((page) => page.unreadable) ?? [],
    error,
    isLoading,
    /** Null where all are there. */
    more: hasNextPage ? { isComing: isFetchingNextPage, fetch: () => void fetchNextPage() } : null,
  }
}
