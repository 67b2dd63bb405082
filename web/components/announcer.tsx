/** What happened, said once to those who do not see it: the page shows the same at the same moment. */
import { useEffect, useState } from 'react'

let tell = (_: string) => {}

/** @param text a short sentence; the latest takes the place of what was not said yet */
export const announce = (text: string) => tell(text)

export function Announcer() {
  const [said, setSaid] = useState({ text: '', times: 0 })
  useEffect(() => {
    tell = (text) => setSaid(({ times }) => ({ text, times: times + 1 }))
    return () => {
      tell = () => {}
    }
  }, [])
  return (
    <p role="status" className="sr-only">
      {/* the same words a second time are said a second time */}
      <span key={said.times}>{said.text}</span>
    </p>
  )
}
