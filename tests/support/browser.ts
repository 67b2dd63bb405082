/** How Debian's Chromium is started here, the one that draws no window of its own: without network services, with a microphone that is not a device. */
import type { LaunchOptions } from '@playwright/test'

export const BROWSER: LaunchOptions = {
  executablePath: process.env.LECTERN_CHROMIUM ?? '/usr/bin/chromium-headless-shell',
  args: [
    '--no-sandbox',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
    '--use-fake-ui-for-media-stream',
    '--use-fake-device-for-media-stream',
    '--autoplay-policy=no-user-gesture-required',
  ],
}
