/** Somebody who has a keyboard and nothing else: goes to things by Tab, and sees whether the focus is lost on the way. */
import { expect, type Locator, type Page } from '@playwright/test'

/** More stops than any page has before what is looked for. */
const MOST_STOPS = 150
/** A choice may load the page anew, which takes seconds where other pages are at work. */
const SETTLED_MS = 15_000

export interface Keyboard {
  /** By Tab until it has the focus. */
  reach(what: Locator): Promise<void>
  press(what: Locator, key?: string): Promise<void>
  /** Opens a choice and goes to one of its options. */
  choose(what: Locator, option: string): Promise<void>
  /** What was done just before the focus was found to be at nothing, once for each time. */
  losses: string[]
}

export function keyboardOf(page: Page): Keyboard {
  const losses: string[] = []
  const isAt = (what: Locator) => what.evaluate((element) => element === document.activeElement)
  /** The page settles, then something has the focus. */
  const look = async (after: string) => {
    // a page that is loaded anew in this moment answers nothing, and is asked again
    const has = () =>
      page.evaluate(() => document.activeElement !== null && document.activeElement !== document.body).catch(() => false)
    try {
      await expect.poll(has, { timeout: SETTLED_MS }).toBe(true)
    } catch {
      losses.push(after)
    }
  }
  const reach = async (what: Locator) => {
    await expect(what).toBeVisible()
    for (let stops = 0; stops < MOST_STOPS; stops++) {
      if (await isAt(what)) return
      await page.keyboard.press('Tab')
    }
    throw new Error(`By keyboard nobody comes to ${what}`)
  }
  return {
    losses,
    reach,
    async press(what, key = 'Enter') {
      const name = String(what)
      await reach(what)
      await page.keyboard.press(key)
      await page.waitForTimeout(250)
      await look(`${key} at ${name}`)
    },
    async choose(what, option) {
      await reach(what)
      const names = await what.evaluate((select) => [...(select as HTMLSelectElement).options].map((one) => one.text.trim()))
      expect(names).toContain(option)
      const at = await what.evaluate((select) => (select as HTMLSelectElement).selectedIndex)
      const steps = names.indexOf(option) - at
      await page.keyboard.press('Space')
      await page.waitForTimeout(150)
      for (let i = 0; i < Math.abs(steps); i++) await page.keyboard.press(steps > 0 ? 'ArrowDown' : 'ArrowUp')
      await page.keyboard.press('Enter')
      await page.waitForTimeout(250)
      await look(`choosing ${option}`)
    },
  }
}
