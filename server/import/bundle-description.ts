/** Reads what a bundle says of itself, in the process that reads what strangers made. */

import { BUNDLE_VERSION, Bundle, filesNamed } from '#core/bundle/bundle.ts'
import { inTodaysVersion } from '#core/bundle/earlier-versions.ts'
import { type Message, message } from '#core/words/say.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { openZip } from './zip.ts'

/** What a lecture says, without its pictures and sounds: a thousand slides with five takes each, every word of them timed, come to 60 MB. */
const LARGEST_DESCRIPTION = 64 * 1024 ** 2
/** Recordings are as large as they are long; the disk is their bound. */
export const MOST_UNPACKED = 200 * 1024 ** 3

export const damaged = (name: string, what: Message) =>
  new UserFacingError(message('“{name}” is damaged: {what}. Export the bundle again.', { name, what }), 422)

/** What a bundle says, by its form. @throws UserFacingError when it is none, damaged, or made by a newer version */
export async function readDescription(path: string, name: string): Promise<Bundle> {
  const zip = await openZip(path, name, MOST_UNPACKED)
  try {
    if (!zip.sizes.has('bundle.json'))
      throw new UserFacingError(
        message('“{name}” is no bundle of a lecture: it holds no bundle.json. Choose another file.', { name }),
        415,
      )
    const text = await zip.read('bundle.json', LARGEST_DESCRIPTION)
    let said: unknown
    try {
      said = JSON.parse(new TextDecoder().decode(text))
    } catch {
      throw damaged(name, message('its description cannot be read'))
    }
    const version = (said as { version?: unknown } | null)?.version
    if (typeof version === 'number' && version > BUNDLE_VERSION)
      throw new UserFacingError(
        message('“{name}” was made by a newer Tidy Lectern. Bring this one up to date, then open it.', { name }),
        422,
      )
    const result = Bundle.safeParse(inTodaysVersion(said))
    if (!result.success) {
      const [issue] = result.error.issues
      const field = issue!.path.join('.') || 'bundle.json'
      throw damaged(
        name,
        issue!.code === 'custom'
          ? message('{field} {what}', { field, what: { id: issue!.message } })
          : message('{field} is not as it should be', { field }),
      )
    }
    const missing = filesNamed(result.data).find((file) => !zip.sizes.has(file))
    if (missing) throw damaged(name, message('“{file}” is not in it', { file: missing }))
    return result.data
  } finally {
    zip.close()
  }
}
