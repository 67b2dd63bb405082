/** The pages of the practice platform. It is a stand-in for trying packages out, in English alone. */
import { html, raw } from 'hono/html'
import type { Course } from './courses.ts'

const page = (title: string, body: unknown) => html`<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">
<title>${title}</title>
<style>
body { font: 1rem/1.5 system-ui, sans-serif; margin: 0; color: #1d2320; background: #f6f5f0 }
header, main { padding: 1rem 1.5rem; max-width: 70rem }
h1 { font-size: 1.4rem; margin: 0 }
table { border-collapse: collapse; width: 100% }
th, td { text-align: start; padding: .4rem .8rem .4rem 0; border-bottom: 1px solid #cfd3cc; vertical-align: top }
a, button { color: #17594a }
button { font: inherit; padding: .3rem .8rem; border: 1px solid #17594a; border-radius: .3rem; background: #fff; cursor: pointer }
iframe { width: 100%; height: 44rem; border: 1px solid #cfd3cc; background: #fff }
pre { white-space: pre-wrap; font-size: .85rem }
.bad { color: #9c2b1b }
</style>
</head>
<body><header><h1>${title}</h1><p>A practice platform: it shows what a learning platform is told, and forgets it when it ends.</p></header>
<main>${body}</main></body></html>`

export const shelfPage = (courses: readonly Course[]) =>
  page(
    'Practice platform',
    html`<form method="post" action="/packages" enctype="multipart/form-data">
  <label>A package (.zip) <input type="file" name="file" accept=".zip" required></label> <button>Add it</button>
</form>
<table><thead><tr><th>Lecture</th><th>Kind</th><th>Status</th><th>Place</th><th>Time</th><th>Score</th><th>What is wrong</th></tr></thead><tbody>
${courses.map((course) => {
  const { status, place, time, score, faults } = course.told()
  return html`<tr><td><a href="/packages/${course.id}">${course.title}</a></td><td>${course.kind}</td><td>${status}</td><td>${place}</td><td>${time}</td><td>${score}</td><td class="bad">${faults.join('; ')}</td></tr>`
})}
</tbody></table>`,
  )

export const problemPage = (problem: string) =>
  page('Practice platform', html`<p class="bad">${problem}</p><p><a href="/">Back</a></p>`)

/** A script that is loaded, and what is done with it. */
export interface Runtime {
  address: string
  begin: string
}

/** The package in a frame. @param runtime what stands around it before it is loaded; null where it needs none */
export const coursePage = (course: Course, address: string, runtime: Runtime | null) =>
  page(
    course.title,
    html`<p><a href="/">Back to all packages</a></p>
${runtime ? html`<script src="${runtime.address}"></script><script>${raw(runtime.begin)}</script>` : ''}
<iframe id="lecture" title="${course.title}" src="${address}" allow="autoplay; fullscreen"></iframe>`,
  )
