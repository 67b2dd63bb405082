/** Who asks: the address behind a trusted forwarder, the name that was asked for, and whether the line is encrypted. */
import type { HttpBindings } from '@hono/node-server'

/** The part of a request that tells who asks. */
interface Asked {
  req: { header(name: string): string | undefined }
  env: HttpBindings | undefined
}

export interface Asker {
  /** Host and port as the browser has them. */
  host: string
  /** Of the device that asks, as far as it is known. */
  address: string
  isSecure: boolean
  /** Something stands between the browser and this server. */
  isForwarded: boolean
}

/** What forwarders add to a request, RFC 7239 (Forwarded) and RFC 9110, §7.6.3 (Via); the others are common practice, no published source. */
const FORWARDING = [
  'forwarded',
  'via',
  'x-forwarded-for',
  'x-forwarded-host',
  'x-forwarded-proto',
  'x-forwarded-port',
  'x-real-ip',
]

export const hostName = (host: string) => host.replace(/:\d+$/, '').toLowerCase()
const plainAddress = (address: string) => address.trim().replace(/^::ffff:(?=\d+\.)/, '')

/** 127.0.0.0/8 and ::1, RFC 1122, §3.2.1.3 and RFC 4291, §2.5.3. */
export const isLoopback = (address: string) => /^127(\.\d{1,3}){3}$/.test(plainAddress(address)) || address === '::1'

/** Whether a name can only mean this machine. */
export const isLocalName = (host: string) => {
  const name = hostName(host)
  return name === 'localhost' || name === '[::1]' || isLoopback(name)
}

/** The last of a list that forwarders add to, each at its end. */
const lastOf = (list: string | undefined) => (list ?? '').split(',').at(-1)!.trim()

/** @param proxies addresses of forwarders whose word is taken for who asks and how */
export function askerOf(c: Asked, proxies: readonly string[]): Asker {
  const header = (name: string) => c.req.header(name)
  // a request made inside a test has no socket
  const address = plainAddress(c.env?.incoming?.socket?.remoteAddress ?? '127.0.0.1')
  const host = header('host') ?? ''
  // no browser speaks HTTP/1.0, while some forwarders do and say nothing else of themselves
  const isOld = c.env?.incoming?.httpVersion === '1.0'
  const isForwarded = isOld || FORWARDING.some((name) => header(name) !== undefined)
  if (!isForwarded || !proxies.includes(address)) return { host, address, isSecure: false, isForwarded }
  // the last address that no trusted forwarder has: what stands before it anybody may have written
  const chain = (header('x-forwarded-for') ?? '').split(',').map(plainAddress).filter(Boolean)
  return {
    host: lastOf(header('x-forwarded-host')) || host,
    address: chain.findLast((entry) => !proxies.includes(entry)) ?? chain[0] ?? address,
    isSecure: lastOf(header('x-forwarded-proto')).toLowerCase() === 'https',
    isForwarded,
  }
}
