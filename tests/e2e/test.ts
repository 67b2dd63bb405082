/** The `test` of all journeys: one kind of worker, so that none is started anew for another file. */
import { linkOf, published, SCRIPTS, stranger } from '#tests/e2e/published.ts'
import { base } from '#tests/e2e/server.ts'

export { expect } from '@playwright/test'

interface Edition {
  /** Of its lecture. */
  id: string
  link: string
}

/** With a lecture that is published already, for tests that change nothing in it: made once for all that a worker runs. */
export const test = base.extend<{ edition: Edition; leave: undefined }, { madeOnce: Edition }>({
  // learners who are left behind play on, and all of them share one browser with the tests that come after
  leave: [
    async ({ sharedContext }, use) => {
      await use(undefined)
      const others = sharedContext
        .browser()!
        .contexts()
        .filter((one) => one !== sharedContext)
      await Promise.all(others.map((one) => one.close()))
    },
    { auto: true },
  ],
  madeOnce: [
    async ({ sharedServer, browser }, use) => {
      const page = await stranger(browser)
      const id = await published(page, sharedServer, SCRIPTS)
      const link = new URL(await linkOf(page), sharedServer.address).href
      await page.context().close()
      await use({ id, link })
    },
    { scope: 'worker' },
  ],
  // its server runs: the test before may have killed it
  edition: async ({ server: _, madeOnce }, use) => use(madeOnce),
})
