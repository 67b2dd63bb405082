/** Editions as packages that learning platforms and readers take. */
import type { Context } from 'hono'
import { z } from 'zod'
import { SHARE_RANGE, USUAL_SHARE } from '#core/packages/listening.ts'
import { type Message, message } from '#core/words/say.ts'
import { sayIn } from '#core/words/say-in.ts'
import type { AppContext } from '#server/context/context.ts'
import { type PackedEdition, sendZip, webFolderFiles } from '#server/publish/web-folder.ts'
import { safeName, type ZippedFile } from '#server/storage/zip-stream.ts'
import { epubFiles } from './epub.ts'
import {
  activityOf,
  cartridgeManifest,
  cmi5Structure,
  type PackagedLecture,
  scorm12Manifest,
  scorm2004Manifest,
  webLink,
  xapiManifest,
} from './manifests.ts'

/** Those that hold the page, each with its manifest. */
const PAGES: Record<'scorm-1.2' | 'scorm-2004' | 'cmi5' | 'xapi', { file: string; write(lecture: PackagedLecture): string }> = {
  'scorm-1.2': { file: 'imsmanifest.xml', write: scorm12Manifest },
  'scorm-2004': { file: 'imsmanifest.xml', write: scorm2004Manifest },
  cmi5: { file: 'cmi5.xml', write: cmi5Structure },
  xapi: { file: 'tincan.xml', write: xapiManifest },
}
type PageKind = keyof typeof PAGES
export const PACKAGE_KINDS = ['scorm-1.2', 'scorm-2004', 'cmi5', 'xapi', 'cartridge', 'epub'] as const
export type PackageKind = (typeof PACKAGE_KINDS)[number]

export const WantedPackage = z.object({
  /** How much of the lecture must be heard, 0 to 1. */
  share: z.coerce.number().min(SHARE_RANGE.least).max(SHARE_RANGE.most).default(USUAL_SHARE),
  /** Of a cartridge: where the lecture is watched, instead of all of it. */
  link: z
    .url({ protocol: /^https?$/ })
    .max(2000)
    .optional(),
})

export interface NarratedEdition extends PackedEdition {
  lectureId: string
}

const DESCRIPTION: Message = message('A narrated lecture with captions and a transcript.')

const isPage = (kind: PackageKind): kind is PageKind => kind in PAGES

async function pageFiles(
  context: AppContext,
  kind: PageKind | 'cartridge',
  edition: NarratedEdition,
  { share, link = null }: { share: number; link?: string | undefined | null },
): Promise<ZippedFile[]> {
  const { lectureId, id: editionId, manifest } = edition
  const { title, language } = manifest
  const activityId = `${activityOf({ lectureId })}${kind === 'cmi5' ? '#lecture' : ''}`
  const description = sayIn(language, DESCRIPTION)
  const about = { lectureId, editionId, title, language, description }
  if (kind === 'cartridge' && link)
    return [
      { path: 'imsmanifest.xml', content: cartridgeManifest({ ...about, files: [] }, link) },
      { path: 'lecture.xml', content: webLink(about, link) },
    ]
  const files = await webFolderFiles(context, edition, kind === 'cartridge' ? null : { kind, share, activityId })
  const lecture = { ...about, files: files.map(({ path }) => path) }
  const written =
    kind === 'cartridge'
      ? { path: 'imsmanifest.xml', content: cartridgeManifest(lecture, null) }
      : { path: PAGES[kind].file, content: PAGES[kind].write(lecture) }
  return [written, ...files]
}

/** @returns the package, to be kept */
export function sendPackage(
  c: Context,
  context: AppContext,
  kind: PackageKind,
  edition: NarratedEdition,
  wanted: z.infer<typeof WantedPackage>,
): Promise<Response> {
  const title = safeName(edition.manifest.title)
  if (kind === 'epub')
    return sendZip(c, context, {
      of: ['package', kind, edition.id],
      name: title,
      ending: '.epub',
      contentType: 'application/epub+zip',
      // whoever asked first may go: others wait for the same one
      files: async () => epubFiles(context, edition, new AbortController().signal),
    })
  return sendZip(c, context, {
    of: ['package', kind, edition.id, isPage(kind) ? wanted.share : (wanted.link ?? null)],
    name: `${title} (${kind})`,
    ending: kind === 'cartridge' ? '.imscc' : '.zip',
    contentType: 'application/zip',
    files: () => pageFiles(context, kind, edition, wanted),
  })
}
