/** The lectures that are shown on the shelf: what was asked for stands in the address, so that one comes back to it. */
import { useEffect, useState } from 'react'
import { useSearchParams } from 'react-router'
import { type ShelfAsked, shelfApi } from '#web/data/endpoints/shelf.ts'

export function useShelf() {
  const [params, setParams] = useSearchParams()
  const asked: ShelfAsked = { words: params.get('words') ?? '', of: params.get('of') ?? '' }
  const { currentData, data, error, isLoading, isFetching, hasNextPage, fetchNextPage } = shelfApi.useShelfInfiniteQuery(asked)
  const key = JSON.stringify(asked)
  const [wanted, setWanted] = useState({ key, pages: 1 })
  const there = currentData?.pages.length ?? 0
  const isComing = wanted.key === key && wanted.pages > there && hasNextPage
  // while the pages that are there are asked for anew nothing further is: what was wanted meanwhile is asked for after it
  useEffect(() => {
    if (isComing && !isFetching && !error) void fetchNextPage()
  }, [isComing, isFetching, error, fetchNextPage])
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
    more: hasNextPage
      ? {
          isComing: isComing && !error,
          fetch() {
            setWanted({ key, pages: there + 1 })
            // what could not be had is asked for by the next press
            if (error) void fetchNextPage()
          },
        }
      : null,
  }
}
