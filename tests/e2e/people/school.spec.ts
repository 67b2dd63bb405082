/** A school's server as its people see it: set up, joined, shared, commented on; each sees what is theirs. */

import { randomUUID } from 'node:crypto'
import AxeBuilder from '@axe-core/playwright'
import type { Browser, Page } from '@playwright/test'
import { eq } from 'drizzle-orm'
import { openDatabase } from '#server/db/database.ts'
import { people } from '#server/db/people-schema.ts'
import { editions } from '#server/db/schema.ts'
import { giveRight } from '#server/people/lecture-rights.ts'
import { folderStore } from '#server/storage/file-store.ts'
import { makeLink } from '#server/watch/links.ts'
import { type TestServer, withServer } from '#tests/e2e/server.ts'
import { expect, test } from '#tests/e2e/test.ts'
import { seedLecture } from '#tests/support/seed.ts'

const PASSWORD = 'a long enough word'

/** Somebody in a browser of their own. */
async function somebody(browser: Browser): Promise<Page> {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, locale: 'en-GB' })
  return context.newPage()
}

const schoolServer = (use: (server: TestServer) => Promise<void>) => withServer(use, { LECTERN_MODE: 'school' })

async function setUp(page: Page, server: TestServer) {
  await page.goto(server.address)
  await expect(page.getByRole('heading', { name: 'Set up this server' })).toBeVisible()
  await page.getByLabel('Code from where the server was started').fill(/code ([A-Z0-9]{8})/.exec(server.said())![1]!)
  await page.getByLabel('Your name').fill('Ines Ward')
  await page.getByLabel('E-mail address').fill('ines@school.example')
  await page.getByLabel('Password').fill(PASSWORD)
  await page.getByRole('button', { name: 'Set up' }).click()
  await expect(page.getByRole('heading', { name: 'Begin with your deck' })).toBeVisible()
}

/** Invites somebody, who joins in a browser of their own. */
async function invited(administrator: Page, browser: Browser, server: TestServer, role: string, name: string): Promise<Page> {
  await administrator.goto(`${server.address}/people`)
  await administrator.getByRole('button', { name: 'Invite somebody' }).click()
  await administrator.getByLabel('They come as').selectOption(role)
  await administrator.getByLabel('Their e-mail address').fill(`${name.toLowerCase()}@school.example`)
  await administrator.getByRole('button', { name: 'Make the link' }).click()
  const link = await administrator.getByLabel('Link', { exact: true }).inputValue()
  await administrator.getByRole('button', { name: 'Done' }).click()
  const page = await somebody(browser)
  await page.goto(link)
  await expect(page.getByText(`You join as ${name.toLowerCase()}@school.example.`)).toBeVisible()
  await page.getByLabel('Your name').fill(name)
  await page.getByLabel('Password').fill('short')
  await page.getByRole('button', { name: 'Join' }).click()
  await expect(page.getByRole('alert')).toHaveText('A password needs ten characters at least.')
  await page.getByLabel('Password').fill(PASSWORD)
  await page.getByRole('button', { name: 'Join' }).click()
  await expect(page.getByRole('button', { name: `Signed in as ${name}` })).toBeVisible()
  return page
}

/** A lecture of somebody's, with an edition behind a link whose video is not looked at. @returns address of the link */
async function linkOfEdition(server: TestServer, email: string): Promise<string> {
  const id = await layOwn(server, email)
  const db = await openDatabase(server.dataFolder)
  const chapter = {
    title: 'Clouds',
    altText: '',
    startSamples: 0,
    lengthSamples: 480_000,
    picture: 'none.png',
    loudnessLufs: null,
  }
  const manifest = { title: 'Clouds', language: 'en', lengthSamples: 480_000, chapters: [chapter], captions: [], checks: [] }
  await db.write((tx) =>
    tx.insert(editions).values({ id: randomUUID(), lectureId: id, number: 1, createdAt: Date.now(), manifest }),
  )
  const token = await makeLink(db, id, 'Class')
  db.close()
  return `${server.address}/watch/${token}`
}

/** Lays a lecture of somebody's into the database. @returns its id */
async function layOwn(server: TestServer, email: string): Promise<string> {
  const db = await openDatabase(server.dataFolder)
  const id = await seedLecture(db, folderStore(server.dataFolder), 'clouds-by-their-shapes', 'en-GB')
  const [person] = await db.read.select().from(people).where(eq(people.email, email))
  await db.write((tx) => giveRight(tx, id, person!.id, 'own'))
  db.close()
  return id
}

/** The sheet of a lecture of somebody's, which is in the database already. */
async function openOwn(page: Page, server: TestServer, email: string) {
  await page.goto(`${server.address}/lectures/${await layOwn(server, email)}`)
  await expect(page.getByRole('listitem', { name: 'Slide 1: Clouds by their shapes' })).toBeVisible()
}

async function faultless(page: Page) {
  const { violations } = await new AxeBuilder({ page }).analyze()
  expect(violations.map((v) => `${v.id}: ${v.nodes.map((n) => n.html).join(' ')}`)).toEqual([])
}

test('a school is set up, people join, a lecture is shared and spoken of, and each sees what is theirs', async ({ browser }) => {
  await schoolServer(async (server) => {
    const ines = await somebody(browser)
    await setUp(ines, server)
    const mira = await invited(ines, browser, server, 'teacher', 'Mira')
    const jonas = await invited(ines, browser, server, 'teacher', 'Jonas')
    const tove = await invited(ines, browser, server, 'reviewer', 'Tove')
    await expect(ines.getByRole('row', { name: /Mira/ })).toContainText('mira@school.example')
    await faultless(ines)

    // a lecture of Mira's is nobody else's
    await openOwn(mira, server, 'mira@school.example')
    await jonas.goto(mira.url())
    await expect(jonas.getByText('This is not here, or it was not shared with you.')).toBeVisible()
    await jonas.goto(server.address)
    await expect(jonas.getByRole('heading', { name: 'Begin with your deck' })).toBeVisible()
    await tove.goto(server.address)
    await expect(tove.getByText('Nothing was shared with you yet.')).toBeVisible()
    await expect(tove.getByRole('button', { name: 'New lecture' })).toHaveCount(0)

    // shared: with Tove by name, with Jonas by a space
    await mira.getByRole('button', { name: 'Share' }).click()
    await mira.getByLabel('Share with somebody').selectOption('Tove, tove@school.example')
    await expect(mira.getByLabel('What Tove may do')).toHaveValue('comment')
    await faultless(mira)
    await mira.getByRole('button', { name: 'Done' }).click()
    const sheet = mira.url()
    await mira.goto(`${server.address}/spaces`)
    await mira.getByLabel('Name of a new space').fill('Weather, year 7')
    await mira.getByRole('button', { name: 'Open a space' }).click()
    await mira.getByLabel('Add somebody to Weather, year 7').selectOption('Jonas')
    await expect(mira.getByLabel('What Jonas may do')).toHaveValue('edit')
    await faultless(mira)
    await mira.goto(sheet)
    await mira.getByRole('button', { name: 'Share' }).click()
    await mira.getByLabel('In the space').selectOption('Weather, year 7')
    await mira.getByRole('button', { name: 'Done' }).click()

    // Tove may watch and comment, not change
    await tove.goto(server.address)
    await expect(tove.getByText('of Mira')).toBeVisible()
    await tove.getByRole('link', { name: 'Look at it' }).click()
    await expect(tove.getByText('You may watch this, not change it')).toBeVisible()
    await expect(tove.getByRole('link', { name: 'Record slide 1' })).toHaveCount(0)
    await expect(tove.getByRole('button', { name: 'Move slide 1' })).toHaveCount(0)
    await expect(tove.getByRole('button', { name: 'Add' })).toHaveCount(0)
    await expect(tove.getByRole('textbox', { name: 'Title of the lecture' })).toHaveCount(0)
    await expect(tove.getByRole('navigation', { name: 'Places of this lecture' }).getByRole('link')).toHaveText(['Sheet'])
    // a slide that is opened is read; where it would be changed, that is said
    await tove.getByRole('link', { name: 'Clouds by their shapes' }).click()
    const read = tove.getByRole('region', { name: 'Slide 1, to be read' })
    await expect(read.getByText('What the picture shows')).toBeVisible()
    await expect(read.getByRole('textbox')).toHaveCount(0)
    await faultless(tove)
    await tove.goto(`${sheet}/booth`)
    await expect(tove.getByText('Here the lecture is changed.')).toBeVisible()
    await faultless(tove)
    await tove.getByRole('link', { name: 'To the sheet' }).click()
    const toDo = async () => Number(/(\d+) things to do/.exec(await mira.getByText(/\d+ things to do/).innerText())![1])
    const before = await toDo()
    await tove.getByRole('button', { name: 'Comments on slide 1: 0 open' }).click()
    await tove.getByLabel('A comment').fill('Say what a shape is.')
    // what was typed and not sent is there again
    await tove.keyboard.press('Escape')
    await tove.getByRole('button', { name: 'Comments on slide 1: 0 open' }).click()
    await expect(tove.getByLabel('A comment')).toHaveValue('Say what a shape is.')
    await tove.getByRole('button', { name: 'Comment', exact: true }).click()
    await expect(tove.getByRole('dialog').getByText('Say what a shape is.')).toBeVisible()
    await faultless(tove)

    // it comes to Mira by itself, is answered and settled
    await expect(mira.getByRole('button', { name: 'Comments on slide 1: 1 open' })).toBeVisible()
    expect(await toDo()).toBe(before + 1)
    await mira.getByRole('button', { name: 'Comments on slide 1: 1 open' }).click()
    await mira.getByLabel('Answer').fill('I will.')
    await mira.getByRole('button', { name: 'Answer' }).click()
    await expect(tove.getByRole('dialog').getByText('I will.')).toBeVisible()
    await mira.getByRole('button', { name: 'Settled' }).click()
    await mira.getByRole('button', { name: 'Done' }).click()
    await expect(mira.getByRole('button', { name: 'Comments on slide 1: 0 open' })).toBeVisible()
    await expect.poll(toDo).toBe(before)

    // Jonas changes a script, and Mira sees it within moments
    await jonas.goto(sheet)
    await expect(mira.getByRole('list', { name: 'Who else is here' })).toHaveText(/J/)
    await expect(mira.getByTitle('Jonas looks at the whole lecture')).toBeVisible()
    await jonas.getByLabel('Title of the lecture').fill('Clouds for year 7')
    await jonas.getByLabel('Title of the lecture').blur()
    await expect(mira.getByLabel('Title of the lecture')).toHaveValue('Clouds for year 7')
    await expect(jonas.getByText('All changes saved')).toBeVisible()

    // who leaves is out, and is erased only when that was asked once more
    await ines.goto(`${server.address}/people`)
    await ines.getByRole('button', { name: 'Tove leaves' }).click()
    await ines.getByRole('button', { name: 'Erase Tove' }).click()
    await ines.getByRole('dialog').getByRole('button', { name: 'Leave it' }).click()
    await expect(ines.getByRole('row', { name: /Tove/ })).toBeVisible()
    await ines.getByRole('button', { name: 'Erase Tove' }).click()
    await ines.getByRole('dialog', { name: 'Erase Tove' }).getByRole('button', { name: 'Erase' }).click()
    await expect(ines.getByRole('row', { name: /Tove/ })).toHaveCount(0)

    for (const page of [ines, mira, jonas, tove]) await page.context().close()
  })
})

test('a session that ends in the middle of work loses nothing: one signs in over the page', async ({ browser }) => {
  await schoolServer(async (server) => {
    const ines = await somebody(browser)
    await setUp(ines, server)
    await openOwn(ines, server, 'ines@school.example')
    await ines.context().clearCookies()
    await ines.getByLabel('Title of the lecture').fill('Clouds, again')
    await ines.getByLabel('Title of the lecture').blur()
    const dialog = ines.getByRole('dialog', { name: 'Sign in again' })
    await expect(dialog).toBeVisible()
    await dialog.getByLabel('E-mail address').fill('ines@school.example')
    await dialog.getByLabel('Password').fill(PASSWORD)
    await dialog.getByRole('button', { name: 'Sign in', exact: true }).click()
    await expect(dialog).toHaveCount(0)
    await expect(ines.getByLabel('Title of the lecture')).toHaveValue('Clouds, again')
    await expect(ines.getByText('All changes saved')).toBeVisible()
    await expect
      .poll(async () => (await (await ines.request.get(`${server.address}/api/lectures`)).json()).lectures[0].title)
      .toBe('Clouds, again')
    await ines.context().close()
  })
})

test('a passkey that a device keeps lets in without a password; a link for people of the school asks for a sign-in, and leads back', async ({
  browser,
}) => {
  await schoolServer(async (server) => {
    const ines = await somebody(browser)
    // the device, as the browser's own tools stand in for it (W3C Web Authentication, section 11)
    const session = await ines.context().newCDPSession(ines)
    await session.send('WebAuthn.enable')
    const options = { protocol: 'ctap2', transport: 'internal', hasResidentKey: true, hasUserVerification: true } as const
    await session.send('WebAuthn.addVirtualAuthenticator', { options: { ...options, isUserVerified: true } })
    await setUp(ines, server)
    await ines.getByRole('button', { name: 'Signed in as Ines Ward' }).click()
    await ines.getByRole('menuitem', { name: 'Your sign-in' }).click()
    await ines.getByRole('button', { name: 'Add a passkey of this device' }).click()
    await expect(ines.getByRole('list', { name: 'Passkeys' }).getByRole('listitem')).toHaveCount(1)
    await faultless(ines)
    await ines.getByRole('button', { name: 'Signed in as Ines Ward' }).click()
    await ines.getByRole('menuitem', { name: 'Sign out' }).click()
    await expect(ines.getByRole('heading', { name: 'Sign in' })).toBeVisible()
    await faultless(ines)
    await ines.getByLabel('E-mail address').fill('ines@school.example')
    await ines.getByLabel('Password').fill('not this one at all')
    await ines.getByRole('button', { name: 'Sign in', exact: true }).click()
    await expect(ines.getByRole('alert')).toHaveText('Address or password is wrong.')
    // a link for people of the school leads here, and back to what it opens
    const link = await linkOfEdition(server, 'ines@school.example')
    await ines.goto(link)
    await expect(ines.getByRole('region', { name: 'Controls' })).toBeVisible()
    const other = await somebody(browser)
    await ines.goto(server.address)
    await ines.getByRole('button', { name: 'Sign in with a passkey' }).click()
    await expect(ines.getByRole('button', { name: 'Signed in as Ines Ward' })).toBeVisible()
    await ines.getByRole('link', { name: 'clouds-by-their-shapes' }).click()
    await ines.getByRole('link', { name: 'Publish' }).first().click()
    await ines.getByRole('button', { name: 'Settings' }).first().click()
    await ines.getByLabel('Only for people of the school, who sign in').check()
    await expect(ines.getByText('opens for people of the school')).toBeVisible()
    await other.goto(link)
    await expect(other.getByRole('heading', { name: 'Only people of this school may watch this lecture' })).toBeVisible()
    await faultless(other)
    await other.getByRole('link', { name: 'Sign in' }).click()
    await other.getByLabel('E-mail address').fill('ines@school.example')
    await other.getByLabel('Password').fill(PASSWORD)
    await other.getByRole('button', { name: 'Sign in', exact: true }).click()
    await expect(other.getByRole('region', { name: 'Controls' })).toBeVisible()
    expect(other.url()).toBe(link)
    for (const page of [ines, other]) await page.context().close()
  })
})
