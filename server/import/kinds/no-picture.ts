/** Why a file is no picture that can be shown. */
import { type Message, message } from '#core/words/say.ts'
import { type FileKind, isForeignPicture } from './sniff.ts'

export const noPicture = (name: string, kind: FileKind): Message =>
  isForeignPicture(kind)
    ? message('“{name}” is a picture of a kind ({kind}) that cannot be read here. Save it as PNG or JPEG and add that.', {
        name,
        kind: kind.toUpperCase(),
      })
    : message('“{name}” is no picture, whatever its name says. Choose another file.', { name })
