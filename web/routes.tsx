/** Places and their addresses; each is loaded when it is first gone to. */
import { createBrowserRouter } from 'react-router'
import { ErrorPage } from './shell/error-page.tsx'

export const router = createBrowserRouter([
  {
    // before anybody is one of the people
    path: '/join/:token',
    lazy: async () => ({ Component: (await import('#web/sign-in/joining.tsx')).JoinPage }),
    errorElement: <ErrorPage />,
  },
  {
    // by a link, without being anybody
    path: '/record/:token',
    lazy: async () => ({ Component: (await import('#web/record/record.tsx')).RecordPage }),
    errorElement: <ErrorPage />,
  },
  {
    lazy: async () => ({ Component: (await import('./shell/author.tsx')).Author }),
    errorElement: <ErrorPage />,
    children: [
      {
        // inside: what sends recordings goes on when a place breaks
        errorElement: <ErrorPage />,
        children: [
          { path: '/', lazy: async () => ({ Component: (await import('./shelf/shelf.tsx')).Shelf }) },
          { path: '/settings', lazy: async () => ({ Component: (await import('./settings/settings.tsx')).Settings }) },
          { path: '/lectures/:id', lazy: async () => ({ Component: (await import('./sheet/sheet.tsx')).Sheet }) },
          { path: '/lectures/:id/slides/:slideId', lazy: async () => ({ Component: (await import('./sheet/sheet.tsx')).Sheet }) },
          {
            lazy: async () => ({ Component: (await import('./shell/places-of-change.tsx')).PlacesOfChange }),
            children: [
              { path: '/lectures/:id/booth', lazy: async () => ({ Component: (await import('./booth/booth.tsx')).Booth }) },
              {
                path: '/lectures/:id/script',
                lazy: async () => ({ Component: (await import('./booth/script/script-window.tsx')).ScriptWindow }),
              },
              { path: '/lectures/:id/divide', lazy: async () => ({ Component: (await import('./divide/divide.tsx')).Divide }) },
              {
                path: '/lectures/:id/divide/:recordingId',
                lazy: async () => ({ Component: (await import('./divide/divide.tsx')).Divide }),
              },
              {
                path: '/lectures/:id/captions',
                lazy: async () => ({ Component: (await import('./captions/captions.tsx')).Captions }),
              },
              { path: '/lectures/:id/sound', lazy: async () => ({ Component: (await import('./sound/sound.tsx')).Sound }) },
              { path: '/lectures/:id/slips', lazy: async () => ({ Component: (await import('./slips/slips.tsx')).Slips }) },
              {
                path: '/lectures/:id/answers/:link',
                lazy: async () => ({ Component: (await import('#web/answers/answers.tsx')).AnswersPage }),
              },
              {
                path: '/lectures/:id/publish',
                lazy: async () => ({ Component: (await import('./publish/publish.tsx')).Publish }),
              },
            ],
          },
          { path: '/me', lazy: async () => ({ Component: (await import('./people/me.tsx')).OwnSignIn }) },
          { path: '/people', lazy: async () => ({ Component: (await import('./people/people.tsx')).People }) },
          { path: '/upkeep', lazy: async () => ({ Component: (await import('./people/upkeep.tsx')).UpkeepPage }) },
          { path: '/spaces', lazy: async () => ({ Component: (await import('./people/spaces.tsx')).Spaces }) },
          { path: '*', lazy: async () => ({ Component: (await import('./shell/not-found-page.tsx')).NotFoundPage }) },
        ],
      },
    ],
  },
])
