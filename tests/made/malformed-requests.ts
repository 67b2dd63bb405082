/** Requests as no page of ours sends them: every route with bodies, ids and headers that are wrong in some way. */
import { random } from './sound.ts'

export interface Target {
  lectureId: string
  slideId: string
  stepId: string
  takeId: string
  trackId: string
  bedId: string
  filmId: string
  recordingId: string
  editionId: string
  token: string
}

export interface MadeRequest {
  method: string
  path: string
  headers: Record<string, string>
  body: string | Uint8Array | null
}

interface Route {
  method: string
  path: string
  /** A body that is right. */
  body?: unknown
  /** Sent as a form with a file. */
  isForm?: boolean
}

const routes = (t: Target): Route[] => {
  const footageId = t.takeId
  const tidyUp = { kept: { start: 0, end: 48_000 } }
  const cue = {
    id: 'a',
    takeId: t.takeId,
    start: 0,
    end: 1,
    text: 'x',
    markup: null,
    settings: '',
    needsReview: false,
    scriptText: '',
    manualEdit: null,
  }
  return [
    { method: 'GET', path: '/api/lectures' },
    { method: 'POST', path: '/api/lectures', isForm: true },
    { method: 'GET', path: `/api/lectures/${t.lectureId}` },
    {
      method: 'PATCH',
      path: `/api/lectures/${t.lectureId}`,
      body: {
        title: 'A',
        timing: { leadSeconds: 1 },
        transition: { kind: 'wipe', seconds: 1 },
        exportSettings: {},
        lineCharacters: 37,
        language: 'en',
      },
    },
    { method: 'PUT', path: `/api/lectures/${t.lectureId}/deleted`, body: { deleted: false } },
    { method: 'PUT', path: `/api/lectures/${t.lectureId}/order`, body: { order: [t.slideId] } },
    { method: 'POST', path: `/api/lectures/${t.lectureId}/decks`, isForm: true },
    { method: 'POST', path: '/api/lectures/replacements/none', body: { changed: [t.slideId], added: [0] } },
    {
      method: 'POST',
      path: `/api/lectures/${t.lectureId}/cards`,
      body: { afterSlideId: t.slideId, card: { heading: 'H', line: 'L', colours: 'ink' } },
    },
    { method: 'PUT', path: '/api/slides/steps', body: { slides: [{ id: t.slideId, steps: [t.stepId], deleted: false }] } },
    {
      method: 'PATCH',
      path: `/api/slides/${t.slideId}`,
      body: {
        title: 'T',
        altText: 'A',
        script: 'S',
        hidden: false,
        keptTakeId: t.takeId,
        timing: { paceSeconds: null },
        transition: null,
        smallPicture: { isShown: true, corner: 'top-left', size: 'small' },
        card: null,
        warnings: [],
        section: '',
      },
    },
    { method: 'PUT', path: `/api/slides/${t.slideId}/deleted`, body: { deleted: false } },
    { method: 'POST', path: `/api/slides/${t.slideId}/copy`, body: {} },
    { method: 'POST', path: `/api/slides/${t.slideId}/pictures`, isForm: true },
    { method: 'POST', path: `/api/slides/${t.slideId}/cards`, body: { heading: 'H', line: 'L', colours: 'ink' } },
    { method: 'POST', path: `/api/slides/${t.slideId}/sounds`, isForm: true },
    { method: 'POST', path: `/api/slides/${t.slideId}/recognition`, body: {} },
    { method: 'PUT', path: `/api/takes/${t.takeId}`, body: { slideId: t.slideId, microphone: 'M', startedAt: 1 } },
    { method: 'PUT', path: `/api/takes/${t.takeId}/chunks/0`, body: 'ab' },
    {
      method: 'PUT',
      path: `/api/takes/${t.takeId}/marks`,
      body: {
        marks: [
          { kind: 'pause', at: 1 },
          { kind: 'step', at: 2, stepId: t.stepId },
        ],
      },
    },
    { method: 'POST', path: `/api/takes/${t.takeId}/seal`, body: { chunks: 1, dropoutCount: 0 } },
    {
      method: 'PUT',
      path: `/api/takes/${t.takeId}/footage/${footageId}`,
      body: { kind: 'screen', codec: 'vp8', width: 640, height: 360 },
    },
    { method: 'PUT', path: `/api/takes/${t.takeId}/footage/${footageId}/pieces/0`, body: 'ab' },
    { method: 'POST', path: `/api/takes/${t.takeId}/footage/${footageId}/seal`, body: { pieces: 0 } },
    { method: 'PUT', path: `/api/takes/${t.takeId}/footage/${footageId}/shown`, body: { isShown: false } },
    { method: 'PATCH', path: `/api/footage/${footageId}`, body: { description: 'x' } },
    { method: 'POST', path: `/api/footage/${footageId}/tries` },
    { method: 'POST', path: '/api/takes/again', body: { takeId: t.takeId, againTakeId: t.takeId, text: 'x', start: 0, end: 1 } },
    { method: 'GET', path: `/api/takes/${t.takeId}/samples?start=0&end=48000` },
    { method: 'GET', path: `/api/takes/${t.takeId}/sentences` },
    { method: 'PUT', path: `/api/takes/${t.takeId}/tidyUp`, body: tidyUp },
    { method: 'PUT', path: `/api/takes/${t.takeId}/stepMoments`, body: { [t.stepId]: 1 } },
    { method: 'PUT', path: `/api/takes/${t.takeId}/bookmarks`, body: { bookmarks: [{ at: 1, title: 'x' }] } },
    { method: 'PUT', path: `/api/takes/${t.takeId}/deleted`, body: { deleted: false } },
    { method: 'GET', path: `/api/files/${'a'.repeat(64)}.png` },
    { method: 'POST', path: `/api/slides/${t.slideId}/films`, isForm: true },
    { method: 'POST', path: `/api/films/${t.filmId}/tries` },
    {
      method: 'PATCH',
      path: `/api/films/${t.filmId}`,
      body: {
        place: { x: 0.1, y: 0.1, width: 0.5, height: 0.5 },
        voice: 'before',
        fromSeconds: 1,
        toSeconds: 4,
        loops: false,
        waits: true,
        afterwards: 'slide',
        isMuted: true,
        isSpoken: false,
        description: 'x',
        volumeDb: -3,
        duckDb: -10,
      },
    },
    { method: 'PUT', path: `/api/films/${t.filmId}/deleted`, body: { deleted: false } },
    { method: 'POST', path: `/api/lectures/${t.lectureId}/beds`, isForm: true },
    {
      method: 'PATCH',
      path: `/api/beds/${t.bedId}`,
      body: {
        volumeDb: -6,
        fromSlideId: t.slideId,
        toSlideId: t.slideId,
        fadeInSeconds: 1,
        fadeOutSeconds: 1,
        loop: true,
        duckDb: -14,
      },
    },
    { method: 'PUT', path: `/api/beds/${t.bedId}/deleted`, body: { deleted: false } },
    { method: 'GET', path: `/api/lectures/${t.lectureId}/recordings` },
    { method: 'POST', path: `/api/lectures/${t.lectureId}/recordings`, isForm: true },
    {
      method: 'POST',
      path: `/api/recordings/${t.recordingId}/division`,
      body: { slideIds: [t.slideId], boundaries: [], cuts: [] },
    },
    { method: 'PUT', path: `/api/recordings/${t.recordingId}/deleted`, body: { deleted: false } },
    { method: 'POST', path: `/api/lectures/${t.lectureId}/captions`, isForm: true },
    {
      method: 'POST',
      path: `/api/lectures/${t.lectureId}/captionTracks`,
      body: { language: 'fr', label: 'F', origin: 'file', kind: 'captions' },
    },
    { method: 'GET', path: `/api/lectures/${t.lectureId}/captions/${t.trackId}.vtt` },
    { method: 'PUT', path: `/api/captions/${t.trackId}/slides/${t.slideId}`, body: { cues: [cue] } },
    {
      method: 'PUT',
      path: `/api/captions/${t.trackId}/translations`,
      body: { translated: [{ cueId: 'a', text: 'b', original: 'c' }] },
    },
    { method: 'PATCH', path: `/api/captions/${t.trackId}`, body: { label: 'L', language: 'en' } },
    { method: 'PUT', path: `/api/captions/${t.trackId}/deleted`, body: { deleted: false } },
    { method: 'GET', path: `/api/lectures/${t.lectureId}/editions` },
    { method: 'GET', path: `/api/lectures/${t.lectureId}/estimates` },
    { method: 'POST', path: `/api/lectures/${t.lectureId}/crests`, isForm: true },
    { method: 'POST', path: `/api/lectures/${t.lectureId}/links`, body: { name: 'N' } },
    {
      method: 'PATCH',
      path: `/api/links/${t.token}`,
      body: { name: 'N', revoked: false, expiresAt: null, passcode: null, downloads: ['video'] },
    },
    { method: 'PUT', path: `/api/editions/${t.editionId}/deleted`, body: { deleted: false } },
    { method: 'GET', path: `/api/editions/${t.editionId}/files/video.mp4` },
    { method: 'GET', path: `/api/lectures/${t.lectureId}/pieces/timings.csv` },
    { method: 'GET', path: '/api/jobs' },
    { method: 'POST', path: '/api/jobs/none/cancel', body: {} },
    { method: 'GET', path: '/api/storage' },
    { method: 'GET', path: `/watch/${t.token}/edition` },
    { method: 'POST', path: `/watch/${t.token}/entry`, body: { passcode: 'none' } },
    { method: 'POST', path: `/watch/${t.token}/views`, body: {} },
    { method: 'GET', path: `/watch/${t.token}/files/${t.editionId}/video.mp4` },
  ]
}

const ODD_VALUES: unknown[] = [
  null,
  true,
  0,
  -1,
  0.5,
  1e308,
  -1e308,
  2 ** 53,
  2 ** 31,
  '',
  ' ',
  'x'.repeat(70_000),
  '\u0000',
  '\ud800',
  '👩‍🔬',
  '../../etc/passwd',
  '%00',
  '%',
  [],
  {},
  [[]],
  [null],
  { a: 1 },
  { __proto__: null, constructor: 1 },
  '2026-13-45',
  'en-a',
  'NaN',
  Array(6000).fill(0),
]
const ODD_IDS = [
  'x',
  '-',
  '..',
  '%2e%2e',
  '%00',
  '%',
  '%F0%9F%98',
  '00000000-0000-4000-8000-000000000000',
  'null',
  'undefined',
  "'; DROP TABLE takes;--",
  'a'.repeat(3000),
  '👩‍🔬',
  '0',
  '-1',
  '1e9',
]
const ODD_BODIES = [
  '',
  '{',
  'null',
  '[]',
  '"x"',
  '0',
  '{"a":',
  '\ufeff{}',
  `${'['.repeat(50_000)}`,
  '{"deleted":"yes"}',
  '<xml/>',
  '\u0000\u0001',
  'a=b&c=d',
  `{"x":${'1'.repeat(5000)}}`,
]
const ODD_TYPES = [
  'application/json',
  'text/plain',
  '',
  'application/x-www-form-urlencoded',
  'multipart/form-data',
  'multipart/form-data; boundary=',
  'multipart/form-data; boundary=x',
  'application/json; charset=utf-16',
  'é'.normalize('NFD').slice(0, 1),
]
const ODD_HEADERS: Record<string, string>[] = [
  {},
  { range: 'bytes=-' },
  { range: 'bytes=9-1' },
  { range: 'bytes=0-0,5-6' },
  { range: 'bytes=99999999999999999999-' },
  { 'if-none-match': '*' },
  { 'x-checksum': 'x' },
  { 'x-checksum': '-1' },
  { cookie: 'lectern-admitted=%' },
  { cookie: ';;;=' },
  { 'accept-encoding': 'x' },
]

/** One value somewhere in a body put in place of another, or left out. */
function changedSomewhere(value: unknown, pick: (most: number) => number): unknown {
  if (value === null || typeof value !== 'object' || pick(4) === 0) return ODD_VALUES[pick(ODD_VALUES.length)]
  if (Array.isArray(value)) {
    if (value.length === 0) return [ODD_VALUES[pick(ODD_VALUES.length)]]
    return value.map((entry, i) => (i === 0 ? changedSomewhere(entry, pick) : entry))
  }
  const entries = Object.entries(value)
  if (entries.length === 0) return { odd: ODD_VALUES[pick(ODD_VALUES.length)] }
  const at = pick(entries.length)
  const how = pick(4)
  return Object.fromEntries(
    entries.flatMap(([name, entry], i) => {
      if (i !== at) return [[name, entry]]
      return how === 0 ? [] : [[name, changedSomewhere(entry, pick)]]
    }),
  )
}

const form = (content: string, fields: Record<string, string>, fileName: string) =>
  `${Object.entries(fields)
    .map(([name, value]) => `--x\r\nContent-Disposition: form-data; name="${name}"\r\n\r\n${value}\r\n`)
    .join(
      '',
    )}--x\r\nContent-Disposition: form-data; name="file"; filename="${fileName}"\r\nContent-Type: text/plain\r\n\r\n${content}\r\n--x--\r\n`

/** @returns the n-th request of a seed */
export function malformedRequest(target: Target, seed: number): MadeRequest {
  const next = random(seed)
  const pick = (most: number) => Math.floor(next() * most)
  const all = routes(target)
  const route = all[pick(all.length)]!
  let { path, method } = route
  // an id that is none, in its place or in the query
  if (pick(3) === 0) {
    const parts = path.split('/')
    parts[2 + pick(parts.length - 2)] = ODD_IDS[pick(ODD_IDS.length)]!
    path = parts.join('/')
  }
  if (path.includes('?') && pick(2) === 0)
    path = path.replace(
      /=\d+/g,
      () => `=${encodeURIComponent(String(['-1', 'x', '1e99', '99999999999', '', '48000', '0'][pick(7)]))}`,
    )
  if (pick(12) === 0) method = ['GET', 'POST', 'PUT', 'PATCH', 'DELETE', 'OPTIONS', 'HEAD'][pick(7)]!
  const headers: Record<string, string> = { ...ODD_HEADERS[pick(ODD_HEADERS.length)] }
  if (method === 'GET' || method === 'HEAD') return { method, path, headers, body: null }
  let body: string
  if (route.isForm) {
    headers['content-type'] = 'multipart/form-data; boundary=x'
    const whole = form(
      pick(3) === 0 ? '' : 'WEBVTT\n\n00:00.000 --> 00:01.000\nx\n',
      {
        language: ['en', 'zz-', '', '\ud800'][pick(4)]!,
        kind: 'odd',
        slideId: 'x',
        fromSlideId: target.slideId,
        toSlideId: target.slideId,
      },
      ['a.vtt', '', 'ü\u0000.png', 'x'.repeat(3000), '../a'][pick(5)]!,
    )
    body = [whole, whole.slice(0, pick(whole.length)), whole.replaceAll('--x', '--y'), ''][pick(4)]!
  } else {
    const right = route.body ?? {}
    body = [
      () => JSON.stringify(changedSomewhere(right, pick)),
      () => JSON.stringify(changedSomewhere(right, pick)),
      () => ODD_BODIES[pick(ODD_BODIES.length)]!,
      () => JSON.stringify(right),
    ][pick(4)]!()
    headers['content-type'] = 'application/json'
  }
  if (pick(8) === 0) {
    const type = ODD_TYPES[pick(ODD_TYPES.length)]!
    if (type) headers['content-type'] = type
    else delete headers['content-type']
  }
  if (/\/(chunks|pieces)\//.test(path) && !headers['x-checksum']) headers['x-checksum'] = '0'
  return { method, path, headers, body }
}
