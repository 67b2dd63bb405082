/** A message in one text field, as a table keeps it; what an earlier version wrote there is read as it stands. */
import type { Message } from './say.ts'

const BEGINS = '{"id":'

export const packed = (message: Message): string =>
  message.values || message.id.startsWith(BEGINS) ? JSON.stringify({ id: message.id, values: message.values }) : message.id

export function unpacked(text: string): Message {
  if (!text.startsWith(BEGINS)) return { id: text }
  try {
    return JSON.parse(text) as Message
  } catch {
    return { id: text }
  }
}
