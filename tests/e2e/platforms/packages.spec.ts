/** Packages in the practice platform, as the bench plays them: begun, left, gone on with, completed when enough was heard. */
import type Cmi5Client from '@xapi/cmi5'
import { KINDS, openPlatform, playPackage } from '#bench/platforms/round.ts'
import { stranger } from '#tests/e2e/published.ts'
import type { TestServer } from '#tests/e2e/server.ts'
import { expect, test } from '#tests/e2e/test.ts'
import { IS_LONG } from '#tests/support/long.ts'

/** A package of a published lecture, and how long that is. */
async function packed({ address }: TestServer, lectureId: string, kind: string): Promise<{ zip: Buffer; length: number }> {
  const { editions } = (await (await fetch(`${address}/api/lectures/${lectureId}/editions`)).json()) as {
    editions: { id: string; lengthSamples: number }[]
  }
  const [edition] = editions
  const answer = await fetch(`${address}/api/editions/${edition!.id}/packages/${kind}?share=0.6`)
  return { zip: Buffer.from(await answer.arrayBuffer()), length: edition!.lengthSamples / 48_000 }
}

// one of SCORM and one of xAPI in the daily run: the others differ from them in what core/packages is tested for
for (const kind of IS_LONG ? KINDS : (['scorm-1.2', 'cmi5'] as const))
  test(`${kind}: begun, left, gone on with, completed when enough was heard and not by jumping, and no rule broken`, async ({
    edition,
    server,
    browser,
  }) => {
    const platform = await openPlatform()
    try {
      const { zip, length } = await packed(server, edition.id, kind)
      const { statuses, resumedAt, leftAt, faults, verbs } = await playPackage(platform, browser, zip, length)
      expect(statuses[0]).toMatch(/^not (begun|attempted)$/)
      expect(statuses.slice(1)).toEqual(['incomplete', 'completed'])
      expect(Math.abs(resumedAt - leftAt)).toBeLessThan(0.3)
      expect(faults).toEqual([])
      if (kind === 'cmi5') expect(verbs.filter((verb) => verb === 'completed')).toHaveLength(1)
      if (kind === 'cmi5' || kind === 'xapi') expect([verbs[0], verbs.at(-1)]).toEqual(['initialized', 'terminated'])
    } finally {
      platform.end()
    }
  })

test('an independent client of cmi5 finds in the practice platform what it needs, and breaks none of its rules', async ({
  edition,
  server,
  browser,
}) => {
  const platform = await openPlatform()
  const page = await stranger(browser)
  try {
    const id = await platform.add((await packed(server, edition.id, 'cmi5')).zip)
    const parameters = Object.fromEntries(platform.launch(id))
    await page.goto(platform.address)
    await page.addScriptTag({ path: 'node_modules/@xapi/cmi5/dist/Cmi5.umd.js' })
    const isRefused = await page.evaluate(async (given) => {
      const { Cmi5 } = window as unknown as { Cmi5: typeof Cmi5Client }
      const launch = { ...given, actor: JSON.parse(given.actor!) } as ConstructorParameters<typeof Cmi5Client>[0]
      const client = new Cmi5(launch)
      await client.initialize()
      await client.progress(50)
      await client.complete()
      await client.terminate()
      // the token is given once
      return new Cmi5(launch).initialize().then(
        () => false,
        () => true,
      )
    }, parameters)
    expect(isRefused).toBe(true)
    expect(platform.told(id)).toMatchObject({
      status: 'completed',
      faults: [],
      verbs: ['initialized', 'completed', 'terminated'],
    })
  } finally {
    await page.context().close()
    platform.end()
  }
})

test('a package that no platform opened plays all the same and says so; what is no package is told', async ({
  edition,
  server,
  browser,
}) => {
  const platform = await openPlatform()
  const page = await stranger(browser)
  try {
    const id = await platform.add((await packed(server, edition.id, 'scorm-1.2')).zip)
    await page.goto(`${platform.address}/packages/${id}/files/index.html`)
    await expect(page.getByText('No learning platform answers here')).toBeVisible()
    await page.getByRole('button', { name: 'Begin', exact: true }).click()
    await expect
      .poll(() => page.locator('video').evaluate((element: HTMLVideoElement) => element.currentTime))
      .toBeGreaterThan(0.5)
    await page.goto(platform.address)
    await page.getByLabel('A package').setInputFiles({ name: 'x.zip', mimeType: 'application/zip', buffer: Buffer.from('x') })
    await page.getByRole('button', { name: 'Add it' }).click()
    await expect(page.getByText('“x.zip” is no zip that can be read.')).toBeVisible()
  } finally {
    await page.context().close()
    platform.end()
  }
})
