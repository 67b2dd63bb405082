/**
 * Writes `core/deck/ooxml/geometry/presets.json`, the outlines of shapes that ECMA-376 defines by name, from the standard's own
 * presetShapeDefinitions.xml (an annex of part 1; Debian's libapache-poi-java has it in its jar): npx tsx tools/build-preset-shapes.ts FILE
 */
import { readFileSync, writeFileSync } from 'node:fs'
import { definitionOf } from '#core/deck/ooxml/geometry/outline.ts'
import { parseXml } from '#core/deck/xml.ts'

const [file] = process.argv.slice(2)
if (!file) throw new Error('Name the file presetShapeDefinitions.xml.')
const root = parseXml(readFileSync(file), file)
const presets = Object.fromEntries(
  root.children
    .filter(({ name }) => !name.startsWith('#'))
    .toSorted((a, b) => (a.name < b.name ? -1 : 1))
    .map((shape) => [shape.name, definitionOf(shape)]),
)
const lines = Object.entries(presets).map(([name, definition]) => `${JSON.stringify(name)}: ${JSON.stringify(definition)}`)
writeFileSync('core/deck/ooxml/geometry/presets.json', `{\n${lines.join(',\n')}\n}\n`)
console.log(`${lines.length} shapes`)
