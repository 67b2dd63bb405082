/** How fast a fresh take is tidied in a worker of a page: the same code, bundled, in Debian's Chromium. */
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { chromium } from '@playwright/test'
import { build } from 'esbuild'
import { BROWSER } from '#tests/support/browser.ts'

/** What the worker does with what it is sent: runs that warm it up, and one that counts. */
const WORKER = `
  import { tidyFresh } from '#core/audio/render/render.ts'
  import { setVoiceModel } from '#core/audio/denoise/voice-model.ts'
  onmessage = ({ data: { data, model } }) => {
    setVoiceModel(model)
    for (let run = 0; run < 2; run++) tidyFresh(data)
    const began = performance.now()
    tidyFresh(data)
    postMessage((performance.now() - began) / 1000)
  }`

/** @returns times realtime, by the clock */
export async function speedInPage(take: Float32Array): Promise<number> {
  const bundle = await build({
    stdin: { contents: WORKER, resolveDir: join(import.meta.dirname, '../..'), loader: 'ts' },
    bundle: true,
    format: 'iife',
    write: false,
  })
  const browser = await chromium.launch(BROWSER)
  try {
    const page = await browser.newPage()
    const sound = Buffer.from(take.buffer, take.byteOffset, take.byteLength).toString('base64')
    const seconds = await page.evaluate(
      async ({ code, sound, model }) => {
        const worker = new Worker(URL.createObjectURL(new Blob([code], { type: 'text/javascript' })))
        const bytes = Uint8Array.from(atob(sound), (c) => c.charCodeAt(0))
        const weights = Uint8Array.from(atob(model), (c) => c.charCodeAt(0))
        worker.postMessage({ data: new Float32Array(bytes.buffer), model: weights })
        return new Promise<number>((resolve, reject) => {
          worker.onmessage = ({ data }) => resolve(data)
          worker.onerror = ({ message }) => reject(new Error(message))
        })
      },
      { code: bundle.outputFiles[0]!.text, sound, model: readFileSync('core/audio/denoise/voice-model.bin').toString('base64') },
    )
    return take.length / 48_000 / seconds
  } finally {
    await browser.close()
  }
}
