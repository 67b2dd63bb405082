import { chromium } from '@playwright/test'
import { BROWSER } from '#tests/browser.ts'
import { writeFileSync } from 'node:fs'
import { openBenchServer } from './sheet/lecture.ts'
import { divisionFigures } from './sheet/division.ts'
import { recordings } from '#server/db/schema.ts'
const s = await openBenchServer(4899)
console.log((await divisionFigures(s, 1)).map(f=>f.value))
const [r] = await s.tools.db.read.select().from(recordings)
const browser = await chromium.launch(BROWSER)
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
await page.addInitScript({ content: `globalThis.__name = (f) => f; window.busy = []
        new PerformanceObserver((list) => window.busy.push(...list.getEntries().map((e) => [Math.round(e.startTime),e.duration]))).observe({ type: 'longtask' })` })
const c = await page.context().newCDPSession(page); await c.send('Profiler.enable'); await c.send('Profiler.setSamplingInterval',{interval:500}); await c.send('Profiler.start')
await page.goto(`${s.address}/lectures/${r!.lectureId}/divide/${r!.id}`)
await page.getByRole('button', { name: /^Slide 30 begins at/ }).waitFor(); await page.waitForTimeout(1500)
console.log(JSON.stringify(await page.evaluate('window.busy')))
const { profile } = await c.send('Profiler.stop')
const self = new Map<string, number>()
const dt = profile.timeDeltas!; const byId = new Map(profile.nodes.map(n=>[n.id,n]))
profile.samples!.forEach((id,i)=>{const n=byId.get(id)!; const k=n.callFrame.functionName+' '+n.callFrame.url.split('/').pop()+':'+n.callFrame.lineNumber; self.set(k,(self.get(k)??0)+dt[i]!/1000)})
console.log([...self].sort((a,b)=>b[1]-a[1]).slice(0,14))
await page.screenshot({path:'/tmp/divide.png'})
await browser.close(); await s.end(); process.exit()
