/** The learner's page: a script of its own, without anything that authors need. */

import { Component, type ReactNode, StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { fetchFurtherLetters } from '#web/shell/further-letters.ts'
import { applyTheme } from '#web/shell/theme.ts'
import { speakAsReader } from '#web/words/page-language.ts'
import { WATCH_WORDS } from '#web/words/watch-words.ts'
import './styles.css'
import { Watch } from './watch.tsx'

/** What breaks while it is drawn is said, with a way on. */
class Boundary extends Component<{ children: ReactNode }, { isBroken: boolean }> {
  override state = { isBroken: false }

  static getDerivedStateFromError() {
    return { isBroken: true }
  }

  override render() {
    if (!this.state.isBroken) return this.props.children
    return (
      <main className="mx-auto grid max-w-xl gap-4 p-10" role="alert">
        <h1 className="font-read text-2xl font-semibold">{say('Something on this page went wrong')}</h1>
        <p>
          <Button kind="primary" size="md" onClick={() => location.reload()}>
            {say('Load the page again')}
          </Button>
        </p>
      </main>
    )
  }
}

applyTheme()
fetchFurtherLetters()
await speakAsReader(WATCH_WORDS)
const [, , token = ''] = location.pathname.split('/')
createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <Boundary>
      <Watch token={decodeURIComponent(token)} />
    </Boundary>
  </StrictMode>,
)
