/** What requests say that bring a take piece by piece. */
import { z } from 'zod'

export const TakeId = z.object({ id: z.uuid() })
export const TakeChunk = z.object({ id: z.uuid(), chunk: z.coerce.number().int().nonnegative() })
/** CRC-32 of the bytes, computed where they were recorded. */
export const Checksum = z.object({ 'x-checksum': z.coerce.number().int().nonnegative() })
