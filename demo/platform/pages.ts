/** The pages of the practice platform. It is a stand-in for trying packages out, in English alone. */
import { html, raw } from 'hono/html'
import type { Course } from './courses.ts'
import { page } from './look/page.ts'

export const shelfPage = (courses: readonly Course[]) =>
  page(
    'Practice platform',
    html`<p><a href="/lti">A course that opens lectures within its own pages</a> (LTI)</p>
<form method="post" action="/packages" enctype="multipart/form-data">
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
