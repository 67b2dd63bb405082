/**
 * What each route needs of who asks, where people sign in. A route that is not here is refused to everybody; docs/permissions.md says the
 * same role by role, and is what the tests walk.
 */
import type { Right, SpaceRight } from '#core/people/rights.ts'
import {
  type Finder,
  ofBed,
  ofComment,
  ofEdition,
  ofFile,
  ofFilm,
  ofFootage,
  ofJob,
  ofLink,
  ofNewTake,
  ofRecording,
  ofReplacement,
  ofSlide,
  ofSlidesInBody,
  ofTake,
  ofTakesInBody,
  ofTrack,
  theLecture,
} from './things.ts'

export type Need =
  /** Nothing: who asks may be nobody. Where a link or a code opens it, its route looks at that. */
  | 'anyone'
  /** A program on the server's own machine. */
  | 'machine'
  | 'person'
  | 'teacher'
  | 'administrator'
  /** A right to every lecture it is about; `any`: to one of them. */
  | { right: Right; of: Finder; any?: true }
  | { inSpace: SpaceRight }

const on = (of: Finder) => ({
  see: { right: 'see', of } as const,
  comment: { right: 'comment', of } as const,
  edit: { right: 'edit', of } as const,
  own: { right: 'own', of } as const,
})
const lecture = on(theLecture)
const slide = on(ofSlide)
const take = on(ofTake)
const track = on(ofTrack)

export const NEEDS: Record<string, Need> = {
  'GET /healthz': 'anyone',
  'GET /readyz': 'anyone',
  'GET /metrics': 'machine',

  'GET /oembed': 'anyone',
  'GET /watch/:token': 'anyone',
  'GET /watch/:token/edition': 'anyone',
  'POST /watch/:token/entry': 'anyone',
  'POST /watch/:token/views': 'anyone',
  'POST /watch/:token/watching/:edition': 'anyone',
  'GET /watch/:token/folder/:edition': 'anyone',
  'GET /watch/:token/files/:edition/:name': 'anyone',

  'GET /api/docs': 'person',
  'GET /api/storage': 'administrator',
  'GET /api/recognisers': 'person',
  'POST /api/scripts/spoken': 'person',

  'GET /api/lectures': 'person',
  'POST /api/lectures': 'teacher',
  'POST /api/lectures/demo': 'teacher',
  'GET /api/lectures/trash': 'person',
  'GET /api/lectures/:id': lecture.see,
  'PATCH /api/lectures/:id': lecture.edit,
  'PUT /api/lectures/:id/deleted': lecture.own,
  'PUT /api/lectures/:id/order': lecture.edit,
  'GET /api/lectures/:id/trash': lecture.edit,
  'POST /api/lectures/:id/decks': lecture.edit,
  'GET /api/lectures/replacements/:id': on(ofReplacement).edit,
  'POST /api/lectures/replacements/:id': on(ofReplacement).edit,
  'POST /api/lectures/:id/cards': lecture.edit,
  'PUT /api/slides/steps': on(ofSlidesInBody).edit,
  'PATCH /api/slides/:id': slide.edit,
  'PUT /api/slides/:id/deleted': slide.edit,
  'POST /api/slides/:id/copy': slide.edit,
  'POST /api/slides/:id/pictures': slide.edit,
  'POST /api/slides/:id/cards': slide.edit,
  'POST /api/slides/:id/sounds': slide.edit,

  'PUT /api/takes/:id': on(ofNewTake).edit,
  'PUT /api/takes/:id/chunks/:chunk': take.edit,
  'PUT /api/takes/:id/marks': take.edit,
  'POST /api/takes/:id/seal': take.edit,
  'PUT /api/takes/:id/footage/:footageId': take.edit,
  'PUT /api/takes/:id/footage/:footageId/pieces/:piece': take.edit,
  'POST /api/takes/:id/footage/:footageId/seal': take.edit,
  'PUT /api/takes/:id/footage/:footageId/shown': take.edit,
  'PATCH /api/footage/:id': on(ofFootage).edit,
  'POST /api/footage/:id/tries': on(ofFootage).edit,
  'POST /api/takes/again': on(ofTakesInBody).edit,
  'GET /api/takes/:id/samples': take.see,
  'PUT /api/takes/:id/tidyUp': take.edit,
  'PUT /api/takes/:id/stepMoments': take.edit,
  'PUT /api/takes/:id/bookmarks': take.edit,
  'PUT /api/takes/:id/deleted': take.edit,
  'GET /api/takes/:id/sentences': take.see,
  'GET /api/takes/:id/words': take.see,
  'POST /api/takes/moved': on(ofTakesInBody).edit,
  'POST /api/takes/:id/cuts': take.edit,
  'GET /api/lectures/:id/slips': lecture.see,

  'POST /api/slides/:id/films': on(ofSlide).edit,
  'POST /api/films/:id/tries': on(ofFilm).edit,
  'POST /api/films/:id/captionFiles': on(ofFilm).edit,
  'PATCH /api/films/:id': on(ofFilm).edit,
  'PUT /api/films/:id/deleted': on(ofFilm).edit,
  'POST /api/lectures/:id/beds': lecture.edit,
  'PATCH /api/beds/:id': on(ofBed).edit,
  'PUT /api/beds/:id/deleted': on(ofBed).edit,
  'GET /api/lectures/:id/recordings': lecture.see,
  'POST /api/lectures/:id/recordings': lecture.edit,
  'POST /api/recordings/:id/division': on(ofRecording).edit,
  'PUT /api/recordings/:id/deleted': on(ofRecording).edit,

  'POST /api/lectures/:id/captions': lecture.edit,
  'POST /api/lectures/:id/captionTracks': lecture.edit,
  'GET /api/lectures/:id/captions/:file': lecture.see,
  'POST /api/slides/:id/recognition': slide.edit,
  'PUT /api/captions/:id/slides/:slideId': track.edit,
  'PUT /api/captions/:id/translations': track.edit,
  'PATCH /api/captions/:id': track.edit,
  'PUT /api/captions/:id/deleted': track.edit,

  'GET /api/lectures/:id/editions': lecture.see,
  'POST /api/lectures/:id/editions': lecture.edit,
  'GET /api/lectures/:id/estimates': lecture.see,
  'POST /api/lectures/:id/crests': lecture.edit,
  'POST /api/lectures/:id/links': lecture.edit,
  'PATCH /api/links/:token': on(ofLink).edit,
  'PUT /api/editions/:id/deleted': on(ofEdition).edit,
  'GET /api/editions/:id/folder': on(ofEdition).see,
  'GET /api/editions/:id/packages/:kind': on(ofEdition).see,
  'GET /api/editions/:id/files/:name': on(ofEdition).see,
  'GET /api/lectures/:id/bundle': lecture.edit,
  'GET /api/lectures/:id/pieces/:piece': lecture.see,

  'GET /api/files/:file': { ...on(ofFile).see, any: true },
  // lists and events hold what is the asker's alone
  'GET /api/jobs': 'person',
  'GET /api/events': 'person',
  'POST /api/jobs/:id/cancel': on(ofJob).edit,
  'PUT /api/jobs/:id/language': on(ofJob).edit,

  'GET /api/me': 'anyone',
  'POST /api/sign-in': 'anyone',
  'POST /api/sign-in/second-proof': 'anyone',
  'POST /api/sign-out': 'anyone',
  'POST /api/set-up': 'anyone',
  'GET /api/invitations/:token': 'anyone',
  'POST /api/invitations/:token': 'anyone',
  'POST /api/sign-in/forgotten': 'anyone',
  'POST /api/sign-in/school': 'anyone',
  'GET /api/sign-in/callback/:provider': 'anyone',
  'GET /api/sign-in/passkey/generate-authenticate-options': 'anyone',
  'POST /api/sign-in/passkey/verify-authentication': 'anyone',
  'GET /api/sign-in/passkey/generate-register-options': 'person',
  'POST /api/sign-in/passkey/verify-registration': 'person',

  'GET /api/me/proofs': 'person',
  'POST /api/me/password': 'person',
  'POST /api/me/codes': 'person',
  'POST /api/me/codes/confirmed': 'person',
  'POST /api/me/codes/off': 'person',
  'PUT /api/me/passkeys/:id/deleted': 'person',
  'PUT /api/me/sessions/:id/ended': 'person',
  'POST /api/me/sessions/ended': 'person',
  'GET /api/me/data': 'person',
  'GET /api/me/room': 'person',

  'GET /api/people': 'administrator',
  'GET /api/people/names': 'teacher',
  'PATCH /api/people/:id': 'administrator',
  'PUT /api/people/:id/left': 'administrator',
  'POST /api/people/:id/lectures': 'administrator',
  'POST /api/people/:id/erased': 'administrator',
  'POST /api/people/:id/reset': 'administrator',
  'POST /api/invitations': 'administrator',
  'GET /api/quotas': 'administrator',
  'PUT /api/quotas/:id': 'administrator',
  'GET /api/upkeep': 'administrator',
  'GET /api/audit': 'administrator',
  'GET /api/audit/csv': 'administrator',

  'GET /api/lectures/:id/members': lecture.see,
  'PUT /api/lectures/:id/members/:personId': lecture.own,
  'PUT /api/lectures/:id/owner': lecture.own,
  'PUT /api/lectures/:id/space': lecture.own,
  'POST /api/lectures/:id/here': lecture.see,
  'GET /api/lectures/:id/comments': lecture.see,
  'POST /api/lectures/:id/comments': lecture.comment,
  'PUT /api/comments/:id/settled': on(ofComment).comment,
  'PUT /api/comments/:id/deleted': on(ofComment).comment,
  'GET /api/spaces': 'person',
  'POST /api/spaces': 'teacher',
  'PATCH /api/spaces/:id': { inSpace: 'manage' },
  'PUT /api/spaces/:id/members/:personId': { inSpace: 'manage' },
}
