/** Makes the demo's two decks as PDF files from our own drawings. Needs Chromium; the results are committed. */
import { readFile, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { chromium } from '@playwright/test'

const here = import.meta.dirname
const html = (await readFile(join(here, 'slides.html'), 'utf8')).replaceAll(
  'FONTS',
  join(here, '../../node_modules/@fontsource-variable'),
)
const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium-headless-shell',
  args: ['--no-sandbox', '--disable-quic', '--allow-file-access-from-files'],
})
try {
  const page = await browser.newPage()
  // the picture slide holds a real picture, as decks do: drawn, then photographed
  await page.setViewportSize({ width: 1600, height: 900 })
  await page.setContent(`<style>body{margin:0}</style>${await readFile(join(here, 'field.svg'), 'utf8')}`)
  const field = (await page.screenshot({ type: 'jpeg', quality: 82 })).toString('base64')
  const print = async (body: string, name: string) => {
    const source = join(here, 'printing.html')
    await writeFile(source, body)
    await page.goto(`file://${source}`)
    await page.evaluate(() => document.fonts.ready)
    await page.pdf({ path: join(here, '../files', name), preferCSSPageSize: true, printBackground: true })
  }
  await print(html.replace('FIELD', `data:image/jpeg;base64,${field}`), 'reading-the-rain-gauge.pdf')
  const style = html.slice(0, html.indexOf('<section>'))
  const cards = ['Clouds by their shapes', 'High: thin and white', 'Middle: sheets and rolls', 'Low: heaps and grey'].map(
    (title, i) =>
      `<section><h2>${title}</h2><p>${i === 0 ? 'For trying the import: nothing is written or spoken yet' : `Picture ${i} of 3`}</p></section>`,
  )
  await print(style + cards.join(''), 'clouds-by-their-shapes.pdf')
} finally {
  await browser.close()
}
