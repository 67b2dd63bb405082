/** A file on this machine whose content is another than was stored. */
export class DamagedFile extends Error {
  constructor(file: string) {
    super(`The file ${file} is not what was stored`)
  }
}
