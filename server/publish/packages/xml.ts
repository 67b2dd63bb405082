/** What XML is written with. */

export const XML_HEAD = '<?xml version="1.0" encoding="UTF-8"?>'

const SIGNS: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' }

/** Text as it stands in XML, without what that may not hold. @see XML 1.0, §2.2 */
export const escapedXml = (text: string): string =>
  // biome-ignore lint/suspicious/noControlCharactersInRegex: they are what is taken out
  text.replace(/[\u0000-\u0008\u000b\u000c\u000e-\u001f]/g, '').replace(/[&<>"]/g, (sign) => SIGNS[sign]!)
