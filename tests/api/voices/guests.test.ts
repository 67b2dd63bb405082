/** A guest's recordings: where they arrive, who may hear them, and how they are taken back. */
import { randomUUID } from 'node:crypto'
import { eq } from 'drizzle-orm'
import { afterEach, beforeEach, describe, expect, test } from 'vitest'
import { toInt16 } from '#core/audio/signal/pcm.ts'
import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { VOICE_BOUNDS } from '#core/voices/voice-link.ts'
import { takes } from '#server/db/schema.ts'
import { keepWholeTake } from '#server/domain/takes/takes.ts'
import type { ShownVoiceLink } from '#server/voices/links.ts'
import { clearVoices } from '#server/voices/recordings.ts'
import { openTestApp, type TestApp } from '#tests/api/harness.ts'
import { madeTake } from '#tests/made/sound.ts'
import { chunksOf } from '#tests/support/chunks.ts'
import { makeLink, visitor } from './by-link.ts'

let app: TestApp
let lecture: Lecture
let token: string
let guest: ReturnType<typeof visitor>
const own = () => lecture.slides[1]!.id
const again = () => app.read<Lecture>(`/api/lectures/${lecture.id}`)
const takesOf = async (index: number) => (await again()).slides[index]!.takes
const { samples } = madeTake()

beforeEach(async () => {
  app = await openTestApp({ publicHosts: ['lectern.example'] })
  lecture = await app.newLecture()
  token = await makeLink(app, lecture.id, 'guest', [lecture.slides[1]!.id, lecture.slides[2]!.id])
  guest = visitor(app, token)
})
afterEach(() => app.end())

describe('what a link opens', () => {
  test('its slides with their scripts, and nothing else of the lecture', async () => {
    const { slides, voice, kind } = await guest.booth()
    expect(kind).toBe('guest')
    expect(slides.map(({ number }) => number)).toEqual([2, 3])
    expect(voice).toBeNull()
    expect(JSON.stringify(slides)).not.toContain(lecture.slides[0]!.id)
    const picture = (index: number) => guest.ask(`pictures/${lecture.slides[index]!.steps[0]!.picture}.png`)
    expect((await picture(1)).status).toBe(200)
    expect((await picture(0)).status).toBe(404)
    expect((await app.ask(`/api/lectures/${lecture.id}`, { headers: { host: 'lectern.example' } }, '192.0.2.7')).status).toBe(404)
  })

  test('nothing without a name, and nothing of somebody else', async () => {
    expect((await guest.begin(randomUUID(), own())).status).toBe(401)
    expect((await guest.join('  ')).status).toBe(422)
    await guest.join('Ada')
    const id = await guest.record(own(), samples)
    const other = visitor(app, token)
    await other.join('Bo')
    for (const answer of [
      await other.send(id),
      await other.withdraw(id),
      await other.ask(`takes/${id}/sound`),
      await other.begin(id, own()),
    ])
      expect(answer.status).toBe(404)
    expect((await other.booth()).recordings).toEqual([])
  })

  test('a passcode is asked for first, and known by who gave it', async () => {
    await app.json('PATCH', `/api/voiceLinks/${token}`, { passcode: 'gauge' })
    expect((await guest.ask('booth')).status).toBe(401)
    expect((await guest.join('Ada')).status).toBe(401)
    expect((await guest.json('POST', 'entry', { passcode: 'wrong' })).status).toBe(401)
    expect((await guest.json('POST', 'entry', { passcode: 'gauge' })).status).toBe(200)
    expect((await guest.booth()).slides).toHaveLength(2)
  })
})

describe('a recording', () => {
  test('arrives when it is sent, by its name, and never takes the place of the kept one', async () => {
    const kept = await app.record(own(), samples)
    await guest.join('Ada')
    const id = await guest.record(own(), samples)
    expect((await takesOf(1)).map((take) => take.id)).toEqual([kept])
    expect((await guest.booth()).recordings).toMatchObject([{ id, state: 'unsent', isSealed: true }])
    expect((await guest.send(id)).status).toBe(200)
    const [slide] = (await again()).slides.slice(1)
    expect(slide!.takes.map(({ id, speaker }) => [id, speaker])).toEqual([
      [id, 'Ada'],
      [kept, null],
    ])
    expect(keptTake(slide!)!.id).toBe(kept)
    expect(slide!.takes[0]!.clip).not.toBeNull()
    // another one of the same name is somebody else, of whom nothing is kept by mistake
    const other = visitor(app, token)
    await other.join('Ada')
    const { links } = await app.read<{ links: ShownVoiceLink[] }>(`/api/lectures/${lecture.id}/voiceLinks`)
    expect(links[0]!.voices.map(({ name, sent }) => [name, sent])).toEqual([
      ['Ada', [id]],
      ['Ada', []],
    ])
  })

  test('in which nothing was recorded is refused in words, and is no recording', async () => {
    await guest.join('Ada')
    const id = randomUUID()
    await guest.begin(id, own())
    const answer = await guest.seal(id, 0)
    expect(answer.status).toBe(422)
    expect(await answer.text()).toMatch(/record/i)
    expect(await takesOf(1)).toEqual([])
  })

  test('is kept by nobody but the teacher, also where the slide has no other', async () => {
    await guest.join('Ada')
    const id = await guest.record(own(), samples)
    await guest.send(id)
    expect((await again()).slides[1]!.keptTakeId).toBeNull()
    await app.json('PATCH', `/api/slides/${own()}`, { keptTakeId: id })
    expect((await again()).slides[1]!.keptTakeId).toBe(id)
    // nor by itself when another one goes
    const mine = await app.record(own(), samples)
    expect((await again()).slides[1]!.keptTakeId).toBe(mine)
    await app.json('PUT', `/api/takes/${mine}/deleted`, { deleted: true })
    expect((await again()).slides[1]!.keptTakeId).toBeNull()
  })

  test('that is taken back is heard nowhere, can be given again for a day, and then is gone with its files', async () => {
    await guest.join('Ada')
    const id = await guest.record(own(), samples)
    await guest.send(id)
    await app.json('PATCH', `/api/slides/${own()}`, { keptTakeId: id })
    const sound = (await takesOf(1))[0]!.sound!
    await guest.withdraw(id)
    expect(await takesOf(1)).toEqual([])
    expect((await again()).slides[1]!.keptTakeId).toBeNull()
    expect((await app.json('PUT', `/api/takes/${id}/deleted`, { deleted: false })).status).toBe(404)
    expect(JSON.stringify(await app.read(`/api/lectures/${lecture.id}/trash`))).not.toContain(id)
    // brought back it is theirs again, until they send it again
    await guest.withdraw(id, false)
    expect(await takesOf(1)).toEqual([])
    await guest.send(id)
    expect((await takesOf(1)).map((take) => take.id)).toEqual([id])
    await guest.withdraw(id)
    await clearVoices(app.context, Date.now() + 23 * 3600_000)
    expect((await guest.booth()).recordings).toMatchObject([{ id, state: 'withdrawn' }])
    await clearVoices(app.context, Date.now() + 25 * 3600_000)
    expect((await guest.booth()).recordings).toEqual([])
    expect(await app.context.store.has(sound)).toBe(false)
  })

  test('that the teacher made something of takes that along: it is kept as hers are, and goes when theirs does', async () => {
    await guest.join('Ada')
    const id = await guest.record(own(), samples)
    await guest.send(id)
    const [theirs] = await app.context.db.read.select().from(takes).where(eq(takes.id, id))
    const made = { id: randomUUID(), slideId: own(), pcm: toInt16(samples.subarray(48_000)), microphone: 'A sentence said again' }
    await keepWholeTake(app.context, app.queue, { ...made, voice: theirs! })
    await app.idle()
    const [slide] = (await again()).slides.slice(1)
    expect(slide!.keptTakeId).toBe(made.id)
    expect(keptTake(slide!)!.speaker).toBe('Ada')
    await app.json('PATCH', `/api/voiceLinks/${token}`, { recordingsEndAt: 1 })
    await clearVoices(app.context)
    expect(await takesOf(1)).toEqual([])
  })

  test('goes on the day that was set, with its name and its files', async () => {
    await guest.join('Ada')
    const id = await guest.record(own(), samples)
    await guest.send(id)
    const day = Date.now() + 3600_000
    await app.json('PATCH', `/api/voiceLinks/${token}`, { recordingsEndAt: day })
    await clearVoices(app.context, day - 1)
    expect(await takesOf(1)).toHaveLength(1)
    await clearVoices(app.context, day + 1)
    expect(await app.context.db.read.select().from(takes)).toEqual([])
    const links = await app.read<{ links: { voices: unknown[]; revokedAt: number | null }[] }>(
      `/api/lectures/${lecture.id}/voiceLinks`,
    )
    expect(links.links[0]).toMatchObject({ voices: [], revokedAt: day + 1 })
  })
})

describe('a link that is closed', () => {
  test('records nothing new, takes what was recorded before, and lets its maker take back', async () => {
    await guest.join('Ada')
    const sent = await guest.record(own(), samples)
    await guest.send(sent)
    const begun = Date.now()
    const late = randomUUID()
    const chunks = chunksOf(samples)
    await new Promise((resolve) => setTimeout(resolve, 5))
    await app.json('PATCH', `/api/voiceLinks/${token}`, { revoked: true })
    expect((await guest.begin(randomUUID(), own(), Date.now() + 1000)).status).toBe(404)
    // its browser was without a network when the link was closed
    expect((await guest.begin(late, own(), begun)).status).toBe(200)
    for (const [i, chunk] of chunks.entries()) expect((await guest.chunk(late, i, chunk)).status).toBe(200)
    expect((await guest.seal(late, chunks.length)).status).toBe(200)
    const booth = await guest.booth()
    expect(booth.isOpen).toBe(false)
    expect(booth.refusal).not.toBeNull()
    expect(booth.recordings.map(({ id }) => id)).toContain(late)
    expect((await guest.withdraw(sent)).status).toBe(200)
    expect((await visitor(app, token).ask('booth')).status).toBe(404)
  })

  test.each([
    ['of a lecture in the trash', () => app.json('PUT', `/api/lectures/${lecture.id}/deleted`, { deleted: true })],
    ['past its last day', () => app.json('PATCH', `/api/voiceLinks/${token}`, { expiresAt: Date.now() - 1000 })],
  ])('%s opens nothing', async (_, close) => {
    await close()
    const answer = await guest.ask('booth')
    expect(answer.status).toBe(404)
    expect(await answer.text()).toContain('Ask the teacher')
  })
})

describe('so many recordings and no more: it is said before anybody speaks', () => {
  const fill = (voiceId: string, many: number) =>
    app.context.db.write(async (tx) => {
      const row = {
        slideId: own(),
        state: 'sealed' as const,
        startedAt: 1,
        microphone: '',
        voiceId,
        voiceState: 'unsent' as const,
      }
      for (let number = 1; number <= many; number++) await tx.insert(takes).values({ id: randomUUID(), number, ...row })
    })
  const idOf = (someone: typeof guest) => someone.key().split('.')[0]!

  test('of one voice', async () => {
    await guest.join('Ada')
    await fill(idOf(guest), VOICE_BOUNDS.takesPerVoice)
    expect((await guest.booth()).refusal?.id).toContain('which is the most')
    expect((await guest.begin(randomUUID(), own())).status).toBe(429)
    expect((await guest.begin(randomUUID(), lecture.slides[0]!.id)).status).toBe(404)
  })

  test('of all that a link brings, whoever they are of', async () => {
    await guest.join('Ada')
    const other = visitor(app, token)
    await other.join('Bea')
    await fill(idOf(guest), VOICE_BOUNDS.takesPerLink - 1)
    expect((await other.booth()).refusal).toBeNull()
    expect((await other.begin(randomUUID(), own())).status).toBe(200)
    const third = visitor(app, token)
    await third.join('Cem')
    expect((await third.begin(randomUUID(), own())).status).toBe(429)
    expect((await third.booth()).refusal?.id).toContain('This link has')
    // who takes back and records again, over and over, fills no disk
    await app.context.db.write((tx) =>
      tx
        .update(takes)
        .set({ voiceState: 'withdrawn', deletedAt: Date.now() })
        .where(eq(takes.voiceId, idOf(guest))),
    )
    expect((await third.begin(randomUUID(), own())).status).toBe(429)
  })
})
