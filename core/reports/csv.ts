/** Tables as text, for spreadsheets and other programs. */

/** What begins like a formula is made plain text by an apostrophe: spreadsheets would work it out. OWASP, CSV Injection. */
const plain = (text: string) => (/^[=+\-@\t\r]/.test(text) ? `'${text}` : text)
const field = (text: string) => (/[",\n\r]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text)

/** @param cells of one row @returns its line. @see RFC 4180 */
export const csvLine = (cells: readonly string[]) => `${cells.map((cell) => field(plain(cell))).join(',')}\r\n`
