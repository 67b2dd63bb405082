/**
 * Presentation files that others made, from the test data of general-purpose libraries: Debian's source packages and npm. They are fetched
 * when the bench runs, and nothing of them is kept in the project.
 */
import { execFileSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { basename, join } from 'node:path'

const CACHE = '.cache/fidelity'
const SOURCES = ['libapache-poi-java', 'python-odf', 'libodfdom-java', 'libpdfbox2-java', 'pdfminer']
const PACKAGES = ['node-pptx']

export interface CorpusFile {
  path: string
  name: string
  /** Those whose SHA-256 begins with an even digit were looked at while this was built; the others are for the report. */
  half: 'building' | 'held back'
}

function fetchAll(folder: string) {
  const [lists, archives] = [join(folder, 'lists/partial'), join(folder, 'archives')]
  for (const one of [lists, archives]) mkdirSync(one, { recursive: true })
  const list = join(folder, 'sources.list')
  const host = /https?:\/\/\S+/.exec(readFileSync('/etc/apt/sources.list.d/debian.sources', 'utf8'))![0]
  const release = /VERSION_CODENAME=(\w+)/.exec(readFileSync('/etc/os-release', 'utf8'))![1]
  writeFileSync(list, `deb-src ${host} ${release} main\n`)
  const at = process.cwd()
  const options = [
    ...['-o', `Dir::State::Lists=${join(at, folder, 'lists')}`, '-o', `Dir::Etc::sourcelist=${join(at, list)}`],
    ...['-o', 'Dir::Etc::sourceparts=-', '-o', 'Debug::NoLocking=1', '-q'],
  ]
  execFileSync('apt-get', [...options, 'update'], { stdio: 'ignore' })
  for (const source of SOURCES)
    execFileSync('apt-get', [...options, 'source', '--download-only', '--tar-only', source], { cwd: archives, stdio: 'ignore' })
  for (const name of PACKAGES)
    execFileSync('npm', ['pack', name, '--pack-destination', join(at, archives)], { stdio: 'ignore', cwd: folder })
  mkdirSync(join(folder, 'files'), { recursive: true })
  for (const archive of readdirSync(archives).filter((name) => /\.(tar\.\w+|tgz)$/.test(name)))
    try {
      execFileSync('tar', ['-xf', join(archives, archive), '-C', join(folder, 'files'), '--wildcards', '*.pptx', '*.odp'], {
        stdio: 'ignore',
      })
    } catch {
      // an archive without one of the endings says so by its status
    }
  writeFileSync(join(folder, 'fetched'), '')
}

/** Where the source of a package lies. */
export function archiveOf(source: string): string {
  const folder = join(CACHE, 'archives')
  const find = () => (existsSync(folder) ? readdirSync(folder) : []).find((name) => name.startsWith(`${source}_`))
  if (!find()) fetchAll(CACHE)
  return join(folder, find()!)
}

const shaOf = (path: string) => createHash('sha256').update(readFileSync(path)).digest('hex')

export const halfOf = (path: string): CorpusFile['half'] =>
  Number.parseInt(shaOf(path)[0]!, 16) % 2 === 0 ? 'building' : 'held back'

/** Each file once, in the order of their names. */
export function corpus(): CorpusFile[] {
  if (!existsSync(join(CACHE, 'fetched'))) fetchAll(CACHE)
  const seen = new Set<string>()
  return readdirSync(join(CACHE, 'files'), { recursive: true, encoding: 'utf8' })
    .filter((name) => /\.(pptx|odp)$/i.test(name))
    .sort()
    .flatMap((name): CorpusFile[] => {
      const path = join(CACHE, 'files', name)
      const sha = shaOf(path)
      if (seen.has(sha)) return []
      seen.add(sha)
      return [{ path, name: basename(name), half: halfOf(path) }]
    })
}
