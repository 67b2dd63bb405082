/** Where a platform put its functions: in a frame around this one, or in the window that opened it. @see SCORM 1.2 RTE §3.3.6.1; SCORM 2004 4th edition, RTE §3.3.1 */
import type { Scorm12Api, Scorm2004Api } from '#core/packages/scorm.ts'

/** More frames around one another than any page has. */
const MOST_FRAMES = 500

type Holder = Window & { API?: Scorm12Api; API_1484_11?: Scorm2004Api }

/** A frame of another site may not be looked into. */
function apiOf<K extends 'API' | 'API_1484_11'>(holder: Holder, name: K): Holder[K] | null {
  try {
    return holder[name] ?? null
  } catch {
    return null
  }
}

function around<K extends 'API' | 'API_1484_11'>(from: Window, name: K): NonNullable<Holder[K]> | null {
  let holder = from as Holder
  for (let i = 0; i < MOST_FRAMES; i++) {
    const api = apiOf(holder, name)
    if (api) return api
    if (holder.parent === holder) return null
    holder = holder.parent as Holder
  }
  return null
}

const found = <K extends 'API' | 'API_1484_11'>(window: Window, name: K) => {
  const opener = (window.top?.opener ?? window.opener) as Window | null
  return around(window, name) ?? (opener && !opener.closed ? around(opener, name) : null)
}

export const findScorm12 = (window: Window): Scorm12Api | null => found(window, 'API')
export const findScorm2004 = (window: Window): Scorm2004Api | null => found(window, 'API_1484_11')
