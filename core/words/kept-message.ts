/** Messages as they come in and out of files and tables. */

import { z } from 'zod'
import type { Message } from './say.ts'

const Value = z.union([z.string().max(5000), z.number()])

/** One that comes from outside: its values are no messages of their own. */
export const MessageSchema: z.ZodType<Message> = z.object({
  id: z.string().max(2000),
  values: z.record(z.string().max(100), Value).optional(),
}) as z.ZodType<Message>

/** One that was kept: earlier versions kept the sentence itself. Two things that are told as one are messages in another, and no deeper. */
export const KeptMessage = z.union([
  z
    .string()
    .max(2000)
    .transform((id): Message => ({ id })),
  z.object({
    id: z.string().max(2000),
    values: z.record(z.string().max(100), z.union([Value, MessageSchema])).optional(),
  }) as z.ZodType<Message>,
])
