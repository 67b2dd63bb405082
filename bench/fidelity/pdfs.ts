/** Pages of PDFs that others made, as we draw them and as poppler's pdftoppm does (Debian poppler-utils). */
import { execFileSync, spawnSync } from 'node:child_process'
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { basename, join } from 'node:path'
import sharp, { type Sharp } from 'sharp'
import { openPdf } from '#server/import/pdf.ts'
import { archiveOf, halfOf } from './corpus.ts'

const FOLDER = '.cache/fidelity/pdfs'
const SOURCES = ['libpdfbox2-java', 'pdfminer']
/** Pages of one file: what a file has wrong is wrong on all of them. */
const MOST_PAGES = 3
/** Mean difference of softened grey pictures, of 255. */
const NEAR = 0.03
const [WIDE, HIGH] = [480, 270]

export interface PdfsJudged {
  pages: number
  near: number
  /** Files that poppler draws and we refuse. */
  refused: string[]
  far: string[]
}

function files(): string[] {
  if (!existsSync(FOLDER)) {
    mkdirSync(FOLDER, { recursive: true })
    for (const source of SOURCES)
      execFileSync('tar', ['-xf', archiveOf(source), '-C', FOLDER, '--wildcards', '*.pdf'], { stdio: 'ignore' })
  }
  return readdirSync(FOLDER, { recursive: true, encoding: 'utf8' })
    .filter((name) => name.endsWith('.pdf'))
    .sort()
    .map((name) => join(FOLDER, name))
}

const soft = (image: Sharp, width: number, height: number) =>
  image
    .flatten({ background: '#ffffff' })
    .greyscale()
    .resize(Math.max(1, Math.round(width * Math.min(WIDE / width, HIGH / height) || 1)), null, { kernel: 'linear' })
    .blur(1)
    .raw()
    .toBuffer({ resolveWithObject: true })

async function theirs(path: string, page: number, folder: string): Promise<Buffer | null> {
  const out = join(folder, `page-${page}`)
  const { status } = spawnSync(
    'pdftoppm',
    ['-png', '-f', String(page), '-l', String(page), '-singlefile', '-scale-to', '1080', path, out],
    { timeout: 60_000, stdio: 'ignore' },
  )
  return status === 0 && existsSync(`${out}.png`) ? readFileSync(`${out}.png`) : null
}

export async function judgePdfs(half: 'building' | 'held back'): Promise<PdfsJudged> {
  const found: PdfsJudged = { pages: 0, near: 0, refused: [], far: [] }
  const folder = mkdtempSync(join(tmpdir(), 'lectern-pdfs-'))
  try {
    for (const path of files()) {
      if (halfOf(path) !== half) continue
      const document = await openPdf(basename(path), path).catch(() => null)
      if (!document) {
        if (await theirs(path, 1, folder)) found.refused.push(basename(path))
        continue
      }
      try {
        for (let i = 0; i < Math.min(MOST_PAGES, document.pages); i++) {
          const other = await theirs(path, i + 1, folder)
          if (!other) continue
          const { rgba, width, height } = document.page(i)
          const own = await soft(sharp(rgba, { raw: { width, height, channels: 4 } }), width, height)
          const judge = await sharp(other)
            .flatten({ background: '#ffffff' })
            .greyscale()
            .resize(own.info.width, own.info.height, { fit: 'fill', kernel: 'linear' })
            .blur(1)
            .raw()
            .toBuffer()
          let sum = 0
          for (let k = 0; k < judge.length; k++) sum += Math.abs(judge[k]! - own.data[k]!)
          found.pages++
          if (sum / judge.length / 255 <= NEAR) found.near++
          else found.far.push(`${basename(path)} ${i + 1}`)
        }
      } catch {
        found.far.push(basename(path))
      } finally {
        document.close()
      }
    }
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
  return found
}
