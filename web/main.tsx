import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { Provider } from 'react-redux'
import { RouterProvider } from 'react-router'
import { Toaster } from 'sonner'
import { store } from './data/store.ts'
import { router } from './routes.tsx'
import { applyTheme } from './shell/theme.ts'
import './styles.css'

applyTheme()
createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <Provider store={store}>
      <RouterProvider router={router} />
      <Toaster position="bottom-right" toastOptions={{ classNames: { toast: 'font-sans' } }} />
    </Provider>
  </StrictMode>,
)
