/** What the slides of a file hold, counted from its text alone, without our readers: pictures, charts, tables, objects, diagrams, page sizes. */
import { readFileSync } from 'node:fs'
import { strFromU8, unzipSync } from 'fflate'

export interface SlideContents {
  /** Pictures that are in the file, films' first pictures among them; what only stands for a sound is none. */
  pictures: number
  charts: number
  tables: number
  /** Embedded objects and diagrams. */
  objects: number
}

export interface FileContents {
  /** Width by height of each slide. */
  ratios: number[]
  slides: SlideContents[]
}

const count = (text: string, pattern: RegExp) => [...text.matchAll(pattern)].length

/** Of a choice between a new way and an old one, the old one is what readers like ours take. */
const withoutChoices = (xml: string) => xml.replace(/<mc:Choice\b[^>]*>[\s\S]*?<\/mc:Choice>(?=\s*<mc:Fallback>\s*<)/g, '')

function presentationXml(files: Record<string, Uint8Array>): FileContents {
  const text = (name: string) => (files[name] ? strFromU8(files[name]) : '')
  const relations = (part: string) => text(part.replace(/([^/]+)$/, '_rels/$1.rels'))
  const main = text('ppt/presentation.xml')
  const [, cx, cy] = /<p:sldSz[^>]*\bcx="(\d+)"[^>]*\bcy="(\d+)"/.exec(main) ?? []
  const rels = relations('ppt/presentation.xml')
  const slides = [...main.matchAll(/<p:sldId\b[^>]*\br:id="([^"]+)"/g)].flatMap(([, id]) => {
    const [, target] = new RegExp(`<Relationship\\b(?=[^>]*\\bId="${id}")[^>]*\\bTarget="([^"]+)"`).exec(rels) ?? []
    return target ? [target.startsWith('/') ? target.slice(1) : `ppt/${target}`] : []
  })
  return {
    ratios: slides.map(() => Number(cx) / Number(cy)),
    slides: slides.map((part) => {
      const xml = withoutChoices(text(part))
      const own = relations(part)
      const isInside = (id: string | undefined) =>
        id !== undefined && new RegExp(`<Relationship\\b(?=[^>]*\\bId="${id}")(?![^>]*TargetMode="External")`).test(own)
      const frames = [...xml.matchAll(/<p:graphicFrame>[\s\S]*?<\/p:graphicFrame>/g)].map(([frame]) => frame)
      const loose = xml.replace(/<p:graphicFrame>[\s\S]*?<\/p:graphicFrame>/g, '')
      const pictures = [...loose.matchAll(/<p:pic>[\s\S]*?<\/p:pic>/g)].filter(
        ([pic]) =>
          isInside(/<a:blip\b[^>]*r:embed="([^"]+)"/.exec(pic)?.[1]) &&
          !/<a:(wav)?[aA]udioFile/.test(pic) &&
          !/hidden="1"/.test(pic),
      )
      return {
        pictures: pictures.length,
        charts: frames.filter((frame) => /<c:chart\b/.test(frame)).length,
        tables: frames.filter((frame) => /<a:tbl>/.test(frame)).length,
        objects: frames.filter((frame) => /<p:oleObj\b|<dgm:relIds\b/.test(frame)).length,
      }
    }),
  }
}

const INCHES: Record<string, number> = { cm: 1 / 2.54, mm: 1 / 25.4, in: 1, pt: 1 / 72 }
const inches = (length: string | undefined) =>
  Number.parseFloat(length ?? '') * (INCHES[/[a-z]+$/.exec(length ?? '')?.[0] ?? ''] ?? 1)

function openDocument(files: Record<string, Uint8Array>): FileContents {
  const content = strFromU8(files['content.xml']!)
  const styles = files['styles.xml'] ? strFromU8(files['styles.xml']) : ''
  const pages = content.split(/<draw:page /).slice(1)
  const ratioOf = (page: string) => {
    const [, master] = /draw:master-page-name="([^"]+)"/.exec(page) ?? []
    const [, layout] =
      new RegExp(`<style:master-page\\b(?=[^>]*style:name="${master}")[^>]*style:page-layout-name="([^"]+)"`).exec(styles) ?? []
    const [own = ''] =
      new RegExp(`<style:page-layout\\b(?=[^>]*style:name="${layout}")[\\s\\S]*?</style:page-layout>`).exec(styles) ?? []
    return inches(/fo:page-width="([^"]+)"/.exec(own)?.[1]) / inches(/fo:page-height="([^"]+)"/.exec(own)?.[1])
  }
  return {
    ratios: pages.map(ratioOf),
    slides: pages.map((page) => {
      const shown = page.replace(/<presentation:notes[\s\S]*?<\/presentation:notes>/g, '')
      const frames = [...shown.matchAll(/<draw:frame\b[\s\S]*?<\/draw:frame>/g)].map(([frame]) => frame)
      const objects = frames.filter((frame) => /<draw:object\b/.test(frame))
      const isChart = (frame: string) => {
        const [, name] = /<draw:object\b[^>]*xlink:href="(?:\.\/)?([^"]+)"/.exec(frame) ?? []
        const inside = files[`${name}/content.xml`]
        return inside !== undefined && strFromU8(inside).includes('<office:chart')
      }
      return {
        pictures: frames.filter(
          (frame) => !/<draw:object\b|<table:table\b/.test(frame) && /<draw:image\b[^>]*xlink:href="(?!http)[^"]/.test(frame),
        ).length,
        charts: objects.filter(isChart).length,
        tables: count(shown, /<table:table\b/g),
        objects: objects.filter((frame) => !isChart(frame)).length,
      }
    }),
  }
}

/** @returns null for what cannot be unzipped */
export function contentsOf(path: string): FileContents | null {
  try {
    const files = unzipSync(new Uint8Array(readFileSync(path)))
    return files['content.xml'] ? openDocument(files) : presentationXml(files)
  } catch {
    return null
  }
}
