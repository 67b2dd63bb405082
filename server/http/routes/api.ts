/** The whole API in one type, which the web side's client is made from. */

import { Hono } from 'hono'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { storageUse } from '#server/maintenance/usage.ts'
import type { JobQueue } from '#server/queue/queue.ts'
import type { PasscodeTries } from '#server/watch/passcode.ts'
import { bedRoutes } from './beds.ts'
import { captionRoutes } from './captions.ts'
import { editionRoutes } from './editions.ts'
import { fileRoutes } from './files.ts'
import { filmRoutes } from './films/films.ts'
import { footageRoutes } from './films/footage.ts'
import { jobRoutes } from './jobs.ts'
import { lectureRoutes } from './lectures/lectures.ts'
import { platformRoutes } from './lti/platforms.ts'
import { outRoutes } from './out.ts'
import { commentRoutes } from './people/comments.ts'
import { hereRoutes } from './people/here.ts'
import { joiningRoutes } from './people/joining.ts'
import { meRoutes } from './people/me.ts'
import { peopleRoutes } from './people/people.ts'
import { proofRoutes } from './people/proofs.ts'
import { sharingRoutes } from './people/sharing.ts'
import { libraryRoutes, signInRoutes } from './people/sign-in.ts'
import { spaceRoutes } from './people/spaces.ts'
import { recordingRoutes } from './recordings.ts'
import { slideRoutes } from './slides.ts'
import { spokenRoutes } from './spoken.ts'
import { takeRoutes } from './takes.ts'
import { voiceLinkRoutes } from './voices/voice-links.ts'

export const apiRoutes = (context: AppContext, queue: JobQueue, tries: PasscodeTries) =>
  new Hono()
    .route('/lectures', lectureRoutes(context, queue))
    .route('/takes', takeRoutes(context, queue))
    .route('/files', fileRoutes(context))
    .route('/', slideRoutes(context, queue))
    .route('/', spokenRoutes(context, queue))
    .route('/', bedRoutes(context, queue))
    .route('/', filmRoutes(context, queue))
    .route('/', footageRoutes(context, queue))
    .route('/', recordingRoutes(context, queue))
    .route('/', captionRoutes(context, queue))
    .route('/', editionRoutes(context, queue, tries))
    .route('/', voiceLinkRoutes(context, tries))
    .route('/', outRoutes(context))
    .route('/', jobRoutes(context, queue))
    .route('/', platformRoutes(context))
    .route('/', signInRoutes(context))
    .route('/', libraryRoutes(context))
    .route('/', joiningRoutes(context))
    .route('/', meRoutes(context))
    .route('/', proofRoutes(context))
    .route('/', peopleRoutes(context))
    .route('/', sharingRoutes(context))
    .route('/', commentRoutes(context))
    .route('/', hereRoutes(context))
    .route('/', spaceRoutes(context))
    .get('/storage', async (c) => c.json(await storageUse(context)))
    .all('*', () => {
      throw new UserFacingError(message('There is no such thing here.'), 404)
    })

export type Api = ReturnType<typeof apiRoutes>
