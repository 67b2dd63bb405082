/** A school's identity provider on loopback, by a library that implements OpenID Connect for real, and a person who signs in at it. */
import { once } from 'node:events'
import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import Provider from 'oidc-provider'

export interface ProviderPerson {
  name: string
  email: string
  groups: string[]
}

export async function startIdentityProvider(people: Record<string, ProviderPerson>, redirectUri: string) {
  const server = createServer()
  server.listen(0, '127.0.0.1')
  await once(server, 'listening')
  const issuer = `http://localhost:${(server.address() as AddressInfo).port}`
  const provider = new Provider(issuer, {
    clients: [{ client_id: 'lectern', client_secret: 'a secret between two servers', redirect_uris: [redirectUri] }],
    claims: { openid: ['sub'], email: ['email', 'email_verified'], profile: ['name', 'groups'] },
    conformIdTokenClaims: false,
    findAccount: (_, sub) => ({
      accountId: sub,
      claims: async () => ({ sub, email_verified: true, ...people[sub] }),
    }),
    cookies: { keys: ['of the test'] },
  })
  server.on('request', provider.callback())
  return { issuer, close: () => server.close() }
}

/** Signs somebody in at the provider's own pages. @returns the address it sends them back to */
export async function signInAtProvider(url: string, login: string, back: string): Promise<string> {
  const cookies = new Map<string, string>()
  const step = async (address: string, form?: Record<string, string>): Promise<Response> => {
    const answer = await fetch(address, {
      redirect: 'manual',
      headers: { cookie: [...cookies].map(([name, value]) => `${name}=${value}`).join('; ') },
      ...(form ? { method: 'POST', body: new URLSearchParams(form) } : {}),
    })
    for (const line of answer.headers.getSetCookie()) {
      const [pair = ''] = line.split(';')
      cookies.set(pair.slice(0, pair.indexOf('=')), pair.slice(pair.indexOf('=') + 1))
    }
    return answer
  }
  let answer = await step(url)
  for (let i = 0; i < 12; i++) {
    const to = answer.headers.get('location')
    if (to !== null) {
      const next = new URL(to, new URL(url).origin).href
      if (next.startsWith(back)) return next
      answer = await step(next)
      continue
    }
    const page = await answer.text()
    const form = /<form[^>]*action="([^"]+)"/.exec(page)?.[1]
    if (!form) throw new Error(`The provider says: ${page.slice(0, 500)}`)
    const prompt = /name="prompt" value="(\w+)"/.exec(page)?.[1] ?? 'login'
    answer = await step(form, prompt === 'login' ? { prompt, login, password: 'any' } : { prompt })
  }
  throw new Error('The provider goes round in circles')
}
