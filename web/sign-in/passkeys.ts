/** Keys of this device (W3C Web Authentication), kept and shown by the browser. */
import { startAuthentication, startRegistration } from '@simplewebauthn/browser'
import { say } from '#core/words/say.ts'

const AT = '/api/sign-in/passkey'

async function send(path: string, body: unknown): Promise<boolean> {
  const headers = { 'content-type': 'application/json' }
  return (await fetch(`${AT}/${path}`, { method: 'POST', headers, body: JSON.stringify(body) })).ok
}

/** @returns null, or what went wrong as a sentence */
async function tried(act: () => Promise<boolean>, refused: string): Promise<string | null> {
  try {
    return (await act()) ? null : refused
  } catch (error) {
    // who changed their mind needs no telling
    if (error instanceof Error && (error.name === 'NotAllowedError' || error.name === 'AbortError'))
      return say('No passkey was chosen.')
    return say('This browser cannot use passkeys here. They need https, or this machine’s own address.')
  }
}

export const signInByPasskey = () =>
  tried(async () => {
    const optionsJSON = await (await fetch(`${AT}/generate-authenticate-options`)).json()
    return send('verify-authentication', { response: await startAuthentication({ optionsJSON }) })
  }, say('This passkey is not known here.'))

export const addPasskey = (name: string) =>
  tried(async () => {
    const optionsJSON = await (await fetch(`${AT}/generate-register-options`)).json()
    return send('verify-registration', { response: await startRegistration({ optionsJSON }), name })
  }, say('The passkey could not be kept. Sign in again, then try once more.'))
