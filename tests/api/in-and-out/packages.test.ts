/** Packages for learning platforms, and the narrated book: what they say of themselves, what they hold, and judges that know them. */
import { execFileSync } from 'node:child_process'
import { randomUUID } from 'node:crypto'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { EpubCheck } from '@likecoin/epubcheck-ts'
import { XMLParser, XMLValidator } from 'fast-xml-parser'
import { strFromU8, unzipSync } from 'fflate'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { validateXML } from 'xmllint-wasm'
import type { Lecture } from '#core/model/lecture.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { schedule } from '#core/timing/schedule.ts'
import type { JobView } from '#server/events/job-view.ts'
import { openTestApp, type TestApp } from '#tests/api/harness.ts'
import { madeTake } from '#tests/made/sound.ts'

let app: TestApp
let lecture: Lecture
let editionId: string

beforeAll(async () => {
  app = await openTestApp({ webFolder: join(import.meta.dirname, '../../../dist/web') })
  const { id, slides } = await app.newLecture()
  await app.json('PATCH', `/api/lectures/${id}`, { title: 'Rain & <snow> “here”' })
  await app.json('PATCH', `/api/slides/${slides[0]!.id}`, { script: 'A first sentence. And a second one.', section: 'Water' })
  const asked = {
    id: randomUUID(),
    text: 'Which is <colder>?',
    explanation: 'It is high up.',
    kind: 'one',
    options: ['Rain', 'Ice & snow'],
    right: 1,
  }
  await app.json('PATCH', `/api/slides/${slides[0]!.id}`, { questions: [asked] })
  await app.record(slides[0]!.id, madeTake().samples)
  await app.json('PATCH', `/api/lectures/${id}`, { exportSettings: { presets: ['standard'], height: 720, author: 'A teacher' } })
  const { job } = (await (await app.json('POST', `/api/lectures/${id}/editions`, {})).json()) as { job: JobView }
  editionId = ((await app.ended(job.id)).result as { editionId: string }).editionId
  lecture = await app.read<Lecture>(`/api/lectures/${id}`)
})
afterAll(() => app.end())

async function packed(kind: string, query = ''): Promise<Record<string, Uint8Array>> {
  const answer = await app.ask(`/api/editions/${editionId}/packages/${kind}${query}`)
  if (answer.status !== 200) throw new Error(await answer.text())
  return unzipSync(new Uint8Array(await answer.arrayBuffer()))
}
const parser = new XMLParser({ ignoreAttributes: false, attributeNamePrefix: '@', isArray: (name) => name === 'file' })
// biome-ignore lint/suspicious/noExplicitAny: as deep as the file is
const parsed = (files: Record<string, Uint8Array>, name: string): any => {
  const text = strFromU8(files[name]!)
  expect(XMLValidator.validate(text), name).toBe(true)
  return parser.parse(text)
}

test.each([
  ['scorm-1.2', '@adlcp:scormtype', '1.2', 'http://www.imsproject.org/xsd/imscp_rootv1p1p2'],
  ['scorm-2004', '@adlcp:scormType', '2004 4th Edition', 'http://www.imsglobal.org/xsd/imscp_v1p1'],
])('%s: a manifest at the root that names one page, all of its files and no other', async (kind, type, version, namespace) => {
  const files = await packed(kind)
  const { manifest } = parsed(files, 'imsmanifest.xml')
  expect(manifest['@xmlns']).toBe(namespace)
  // xs:ID begins with a letter. @see SCORM 1.2 CAM §2.3.2.1
  expect(manifest['@identifier']).toMatch(/^[A-Za-z_]/)
  expect(manifest.metadata).toEqual({ schema: 'ADL SCORM', schemaversion: version === '1.2' ? 1.2 : version })
  const { organization, '@default': usual } = manifest.organizations
  expect(organization['@identifier']).toBe(usual)
  expect(organization.title).toBe('Rain & <snow> “here”')
  const { resource } = manifest.resources
  expect(organization.item['@identifierref']).toBe(resource['@identifier'])
  expect(resource[type]).toBe('sco')
  expect(resource['@href']).toBe('index.html')
  const named = resource.file.map((one: Record<string, string>) => decodeURIComponent(one['@href']!))
  expect(named.toSorted()).toEqual(
    Object.keys(files)
      .filter((name) => name !== 'imsmanifest.xml')
      .toSorted(),
  )
  expect(named).toContain('index.html')
})

/** The schemas of tests/reference/schemas: rebuilt with the clauses they are of. @returns what libxml2 finds fault with */
async function schemaFaults(xml: string, schema: string, ...imported: string[]): Promise<string[]> {
  const read = (fileName: string) => ({
    fileName,
    contents: readFileSync(join(import.meta.dirname, '../../reference/schemas', fileName), 'utf8'),
  })
  const { errors } = await validateXML({
    xml: [{ fileName: 'manifest.xml', contents: xml }],
    schema: [read(schema)],
    preload: imported.map(read),
  })
  return errors.map(({ message }) => message)
}

test.each([
  ['scorm-1.2', 'imsmanifest.xml', ['imscp.xsd', 'adlcp.xsd'], ['scormtype="sco"', 'scormtype="page"']],
  ['scorm-2004', 'imsmanifest.xml', ['imscp-2004.xsd', 'adlcp-2004.xsd', 'imsss.xsd'], ['tracked="true"', 'tracked="yes"']],
  ['cmi5', 'cmi5.xml', ['cmi5.xsd'], ['moveOn="Completed"', 'moveOn="Heard"']],
  ['cartridge', 'imsmanifest.xml', ['cartridge.xsd', 'lom.xsd'], ['type="webcontent"', 'type="page"']],
] as const)(
  '%s: what it says of itself holds to its schema, which finds a fault that is put in',
  async (kind, name, schemas, [right, wrong]) => {
    const said = strFromU8((await packed(kind))[name]!)
    const [schema, ...imported] = schemas
    expect(await schemaFaults(said, schema, ...imported)).toEqual([])
    expect(said).toContain(right)
    expect(await schemaFaults(said.replace(right, wrong), schema, ...imported)).not.toEqual([])
  },
)

test('a link in a cartridge holds to its schema', async () => {
  const files = await packed('cartridge', `?link=${encodeURIComponent('https://school.example/watch/abc?x=1&y=2')}`)
  expect(await schemaFaults(strFromU8(files['lecture.xml']!), 'weblink.xsd')).toEqual([])
  expect(await schemaFaults(strFromU8(files['imsmanifest.xml']!), 'cartridge.xsd', 'lom.xsd')).toEqual([])
})

test('the page of a package knows its kind and what must be heard, and asks nothing of any server', async () => {
  const files = await packed('scorm-1.2', '?share=0.75')
  const settings = JSON.parse(strFromU8(files['page/package.js']!).replace('window.lecternPackage = ', '')) as object
  expect(settings).toEqual({ kind: 'scorm-1.2', share: 0.75, activityId: `urn:uuid:${lecture.id}` })
  const page = strFromU8(files['index.html']!)
  for (const [, address] of page.matchAll(/(?:src|href)="([^"]+)"/g)) expect(Object.keys(files)).toContain(address)
  expect((await app.ask(`/api/editions/${editionId}/packages/scorm-1.2?share=2`)).status).toBe(422)
  expect((await app.ask(`/api/editions/${editionId}/packages/another`)).status).toBe(422)
})

test('cmi5 and xAPI: one thing to do, called the same in every edition', async () => {
  const { courseStructure } = parsed(await packed('cmi5'), 'cmi5.xml')
  // @see cmi5 (Quartz) §13.1.4: an AU's id is an IRI, its address is relative to the file
  expect(courseStructure.au).toMatchObject({ '@id': `urn:uuid:${lecture.id}#lecture`, '@moveOn': 'Completed', url: 'index.html' })
  expect(courseStructure.course.title.langstring).toEqual({ '#text': 'Rain & <snow> “here”', '@lang': lecture.language })
  const { activity } = parsed(await packed('xapi'), 'tincan.xml').tincan.activities
  expect(activity).toMatchObject({ '@id': `urn:uuid:${lecture.id}`, launch: { '#text': 'index.html' } })
})

test('a cartridge holds all of it, or the way to it', async () => {
  const whole = await packed('cartridge')
  const { manifest } = parsed(whole, 'imsmanifest.xml')
  expect(manifest.metadata).toMatchObject({ schema: 'IMS Common Cartridge', schemaversion: '1.3.0' })
  expect(manifest.resources.resource['@type']).toBe('webcontent')
  for (const { '@href': href } of manifest.resources.resource.file) expect(Object.keys(whole)).toContain(decodeURIComponent(href))
  const link = 'https://school.example/watch/abc?x=1&y=2'
  const linked = await packed('cartridge', `?link=${encodeURIComponent(link)}`)
  expect(Object.keys(linked).toSorted()).toEqual(['imsmanifest.xml', 'lecture.xml'])
  expect(parsed(linked, 'imsmanifest.xml').manifest.resources.resource['@type']).toBe('imswl_xmlv1p3')
  expect(parsed(linked, 'lecture.xml').webLink.url['@href']).toBe(link)
  expect((await app.ask(`/api/editions/${editionId}/packages/cartridge?link=javascript:alert(1)`)).status).toBe(422)
})

test('the narrated book is valid by an independent checker, and its text is heard from its first second to its last', async () => {
  const answer = await app.ask(`/api/editions/${editionId}/packages/epub`)
  const bytes = new Uint8Array(await answer.arrayBuffer())
  expect(answer.headers.get('content-type')).toBe('application/epub+zip')
  const { valid, messages } = await EpubCheck.validate(bytes)
  expect(messages.filter(({ severity }) => severity === 'error' || severity === 'fatal' || severity === 'warning')).toEqual([])
  expect(valid).toBe(true)
  const files = unzipSync(bytes)
  const page = strFromU8(files['EPUB/slide-001.xhtml']!)
  expect(page).toContain('A first sentence.')
  expect(page).toContain('<p>Which is &lt;colder&gt;?</p><ul><li>Rain</li><li>Ice &amp; snow</li></ul><details>')
  expect(page).toContain('<p>Ice &amp; snow</p><p>It is high up.</p></details>')
  const clips = [...strFromU8(files['EPUB/slide-001.smil']!).matchAll(/clipBegin="([\d.]+)s" clipEnd="([\d.]+)s"/g)].map(
    ([, begin, end]) => [Number(begin), Number(end)],
  )
  const [first] = schedule(lecture).slides
  expect(clips[0]![0]).toBe(0)
  expect(clips.at(-1)![1]).toBeCloseTo(toSeconds(first!.lengthSamples), 2)
  for (const [i, [begin]] of clips.entries()) if (i > 0) expect(begin).toBe(clips[i - 1]![1])
  const folder = mkdtempSync(join(tmpdir(), 'lectern-book-'))
  try {
    writeFileSync(join(folder, 'audio.m4a'), files['EPUB/audio.m4a']!)
    const said = execFileSync('ffprobe', [
      '-v',
      'error',
      '-show_entries',
      'format=duration',
      '-of',
      'csv=p=0',
      join(folder, 'audio.m4a'),
    ])
    expect(Number(said.toString())).toBeCloseTo(toSeconds(schedule(lecture).lengthSamples), 0)
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
})
