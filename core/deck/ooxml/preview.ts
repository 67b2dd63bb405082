/** The picture of an embedded object that older writers keep in a drawing of another kind. @see ECMA-376, part 4, §14.1 (VML), §9.3.2.2 oleObj (spid) */
import { below, type XmlNode } from '../xml.ts'
import type { Sheet } from './layers.ts'
import type { OfficePackage } from './package.ts'

/** @returns name of the picture's part; null where there is none */
export function previewOf(frame: XmlNode, sheet: Sheet, pack: OfficePackage): string | null {
  const [object] = below(frame, 'oleObj')
  const shape = object?.attrs.spid
  const drawing = sheet.relations.find((relation) => relation.type === 'vmlDrawing')?.target
  if (!shape || !drawing || !pack.has(drawing)) return null
  try {
    const found = below(pack.xml(drawing), 'shape').find(({ attrs }) => attrs.id === shape || attrs['o:spid'] === shape)
    const data = below(found, 'imagedata')[0]?.attrs
    const id = data?.['o:relid'] ?? data?.['r:id']
    const picture = pack.relations(drawing).find((relation) => relation.id === id)
    return picture && !picture.external && pack.has(picture.target) ? picture.target : null
  } catch {
    // such drawings are not always well-formed
    return null
  }
}
