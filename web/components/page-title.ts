/** What a page is called in the browser: what it is about first, then the place. */
import { useEffect } from 'react'

export function usePageTitle(...parts: (string | undefined)[]) {
  const title = [...parts, 'Tidy Lectern'].filter(Boolean).join(' · ')
  useEffect(() => {
    document.title = title
  }, [title])
}
