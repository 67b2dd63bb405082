/** Parts that a page is drawn without. */
import { type ComponentType, lazy } from 'react'

const WHEN_THE_PAGE_STANDS_MS = 1500

/** A part that is fetched when the page stands, or when it is wanted before: a line that breaks later does not keep it away. */
export function soon<Props>(load: () => Promise<ComponentType<Props>>) {
  const loaded = async () => ({ default: await load() })
  // what does not come now is asked for again when it is wanted
  setTimeout(() => void load().catch(() => {}), WHEN_THE_PAGE_STANDS_MS)
  return lazy(loaded)
}
