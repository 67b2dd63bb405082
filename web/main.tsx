import { StrictMode } from 'react'
import { RouterProvider } from 'react-router'
import { router } from './routes.tsx'
import { fetchFurtherLetters } from './shell/further-letters.ts'
import { applyTheme } from './shell/theme.ts'
import { AUTHOR_WORDS } from './words/author-words.ts'
import { speakAsReader } from './words/page-language.ts'
import './styles.css'

applyTheme()
fetchFurtherLetters()
// a task of its own: read together with the rest it keeps the page busy for longer than one notices nothing
const [{ createRoot }, { flushSync }] = await Promise.all([
  import('react-dom/client'),
  import('react-dom'),
  speakAsReader(AUTHOR_WORDS),
])
createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <RouterProvider router={router} flushSync={(change) => void flushSync(change)} />
  </StrictMode>,
)
