import { randomInt } from 'node:crypto'
import { once } from 'node:events'
import { createServer } from 'node:net'

/** A port below those that the system hands out: a connection going out cannot take it while the server is away. */
export async function freePort(): Promise<number> {
  for (;;) {
    const port = 11_000 + randomInt(20_000)
    const probe = createServer().listen(port, '127.0.0.1')
    const free = await once(probe, 'listening').then(
      () => true,
      () => false,
    )
    await new Promise((resolve) => probe.close(resolve))
    if (free) return port
  }
}
