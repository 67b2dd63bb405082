/** Who is here is told to those who may see the lecture, at once, and ends by itself. */
import { randomUUID } from 'node:crypto'
import { expect, test } from 'vitest'
import type { LecternEvent } from '#server/events/events.ts'
import { giveRight } from '#server/people/lecture-rights.ts'
import { presence } from '#server/people/presence.ts'
import { openSchoolApp } from './school.ts'

const ada = { personId: 'ada', name: 'Ada', slideId: null }

test('a page that stops saying so is gone, and somebody with two pages is here once', () => {
  let time = 0
  const here = presence(() => time)
  here.say('one', 'page a', ada)
  here.say('one', 'page b', { ...ada, slideId: 'slide' })
  here.say('two', 'page c', { personId: 'ben', name: 'Ben', slideId: null })
  expect(here.at('one')).toEqual([{ ...ada, slideId: 'slide' }])
  here.say('one', 'page b', null)
  expect(here.at('one')).toEqual([ada])
  time = 44_000
  expect(here.at('one')).toHaveLength(1)
  time = 46_000
  expect(here.at('one')).toEqual([])
})

test('those who may see a lecture are told who is there, others hear nothing of it', async () => {
  const app = await openSchoolApp()
  const [mira, jonas, other] = [await app.person('teacher'), await app.person('teacher'), await app.person('teacher')]
  const lectureId = await app.lectureOf(mira.id)
  await app.context.db.write((tx) => giveRight(tx, lectureId, jonas.id, 'see'))
  const heard: LecternEvent[] = []
  const end = app.context.events.listen((event) => heard.push(event))
  const say = (who: typeof mira, slideId: string | null) =>
    who.json('POST', `/api/lectures/${lectureId}/here`, { page: randomUUID(), slideId, isHere: true })
  await say(mira, null)
  const answer = (await (await say(jonas, null)).json()) as { people: { name: string }[] }
  expect(answer.people.map(({ name }) => name)).toEqual([mira.name, jonas.name])
  expect((await say(other, null)).status).toBe(404)
  expect(heard.filter(({ type }) => type === 'here')).toHaveLength(2)
  end()
  await app.end()
})

test('events reach those who may see what they are about, and nobody else', async () => {
  const app = await openSchoolApp()
  const [mira, other] = [await app.person('teacher'), await app.person('teacher')]
  const lectureId = await app.lectureOf(mira.id)
  /** What somebody's line of events says until it was quiet for a moment. */
  async function lineOf(who: typeof mira) {
    const answer = await who.ask('/api/events')
    const reader = answer.body!.getReader()
    const decoder = new TextDecoder()
    let text = ''
    const reading = (async () => {
      for (;;) {
        const { done, value } = await reader.read()
        if (done) return
        text += decoder.decode(value, { stream: true })
      }
    })().catch(() => {})
    return {
      said: () => text,
      async end() {
        await reader.cancel()
        await reading
      },
    }
  }
  const lines = [await lineOf(mira), await lineOf(other)]
  const [own, theirs] = lines as [(typeof lines)[0], (typeof lines)[0]]
  await mira.json('PATCH', `/api/lectures/${lectureId}`, { title: 'Changed' })
  await expect.poll(() => own.said()).toContain(lectureId)
  // what others may hear comes after it on the same line
  app.context.events.tell({ type: 'lecture', lectureId: await app.lectureOf(other.id) })
  await expect.poll(() => theirs.said()).toContain('"type":"lecture"')
  expect(theirs.said()).not.toContain(lectureId)
  // who has left hears nothing more, though their page still stands
  await mira.json('PATCH', `/api/lectures/${lectureId}`, { title: 'Before' })
  await expect.poll(() => own.said().split(lectureId)).toHaveLength(3)
  const administrator = await app.person('administrator')
  await administrator.json('PUT', `/api/people/${mira.id}/left`, { left: true })
  app.context.events.tell({ type: 'lecture', lectureId })
  app.context.events.tell({ type: 'lecture', lectureId: await app.lectureOf(other.id) })
  await expect.poll(() => theirs.said().split('"type":"lecture"').length).toBe(3)
  expect(own.said().split(lectureId)).toHaveLength(3)
  for (const line of lines) await line.end()
  await app.end()
})

test('pages that are said to be there are bounded', () => {
  const here = presence(() => 0)
  for (let i = 0; i < 20_000; i++) here.say('one', `page ${i}`, { personId: `person ${i}`, name: '', slideId: null })
  expect(here.at('one').length).toBeLessThanOrEqual(10_000)
})
