/**
 * A presentation file held against the schemas of ECMA-376, which the source of a library in Debian carries (libapache-poi-java), by xmllint
 * (Debian libxml2-utils).
 */
import { execFileSync, spawnSync } from 'node:child_process'
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { unzipSync } from 'fflate'
import { archiveOf } from './corpus.ts'

const CACHE = '.cache/fidelity/schemas'
const NAMESPACE = /targetNamespace="([^"]+)"/

/** The reader of schemas wants one file for each namespace: one that includes all of its own is put before them. */
function prepare() {
  mkdirSync(CACHE, { recursive: true })
  execFileSync('tar', [
    '-xf',
    archiveOf('libapache-poi-java'),
    '-C',
    CACHE,
    '--strip-components=2',
    '--wildcards',
    '*/ooxml-xsds/*.xsd',
  ])
  const files = readdirSync(CACHE).filter((name) => name.endsWith('.xsd'))
  const spaces = new Map<string, string[]>()
  for (const name of files) {
    const [, space] = NAMESPACE.exec(readFileSync(join(CACHE, name), 'utf8')) ?? []
    if (space) spaces.set(space, [...(spaces.get(space) ?? []), name])
  }
  const whole = new Map([...spaces.keys()].map((space, i) => [space, `all-${i}.xsd`]))
  for (const name of files) {
    const seen = new Set<string>()
    const xml = readFileSync(join(CACHE, name), 'utf8')
    const one = xml
      .replace(/<xsd:include\b[^>]*\/>/g, '')
      .replace(/<xsd:import\b[^>]*namespace="([^"]+)"[^>]*\/>/g, (tag, space: string) => {
        if (!whole.has(space)) return tag
        if (seen.has(space)) return ''
        seen.add(space)
        return `<xsd:import namespace="${space}" schemaLocation="${whole.get(space)}"/>`
      })
    writeFileSync(join(CACHE, name), one)
  }
  for (const [space, names] of spaces) {
    const includes = names.map((name) => `<xsd:include schemaLocation="${name}"/>`).join('')
    writeFileSync(
      join(CACHE, whole.get(space)!),
      `<xsd:schema xmlns:xsd="http://www.w3.org/2001/XMLSchema" targetNamespace="${space}" elementFormDefault="qualified">${includes}</xsd:schema>`,
    )
  }
  const named = Object.fromEntries(whole)
  writeFileSync(join(CACHE, 'namespaces.json'), JSON.stringify(named))
}

/** @returns what the schemas do not allow, each with its part; null without the program that tells */
export function faultsOf(pptx: Uint8Array): string[] | null {
  if (!existsSync('/usr/bin/xmllint')) return null
  if (!existsSync(join(CACHE, 'namespaces.json'))) prepare()
  const known = JSON.parse(readFileSync(join(CACHE, 'namespaces.json'), 'utf8')) as Record<string, string>
  const folder = mkdtempSync(join(tmpdir(), 'lectern-schema-'))
  try {
    return Object.entries(unzipSync(pptx)).flatMap(([name, bytes]) => {
      if (!/\.xml$/.test(name) || /core\.xml$/.test(name)) return []
      const file = join(folder, 'part.xml')
      writeFileSync(file, bytes)
      const root = /<(?:(\w+):)?\w+[^>]*>/.exec(
        Buffer.from(bytes)
          .toString()
          .replace(/<\?.*?\?>/s, ''),
      )!
      const [, space] = new RegExp(`xmlns${root[1] ? `:${root[1]}` : ''}="([^"]+)"`).exec(root[0]) ?? []
      const schema = space ? known[space] : undefined
      if (!schema) return [`${name}: no schema for ${space}`]
      const { stderr, status } = spawnSync('xmllint', ['--noout', '--nowarning', '--schema', join(CACHE, schema), file], {
        encoding: 'utf8',
      })
      if (status === 0) return []
      const lines = stderr.split('\n').filter((line) => /error/.test(line))
      return lines.slice(0, 5).map((line) => `${name}: ${line.replace(/^.*part\.xml:\d+: /, '').replaceAll(/\{[^}]*\}/g, '')}`)
    })
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}
