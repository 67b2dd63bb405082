/** Learning platforms that open lectures within their own pages: how one is registered. */
import { message } from '#core/words/say.ts'
import { z } from '#core/zod.ts'

const address = z
  .url({ protocol: /^https?$/, error: message('An address is written like https://learn.school.example/lti/auth.').id })
  .max(1000)
const name = z.string().trim().min(1, message('Give the platform a name.').id).max(100)
const needed = z.string().trim().min(1, message('The platform tells this when the tool is set up there.').id).max(500)

/** What a platform tells about itself when a tool is set up there. @see 1EdTech LTI 1.3 Core, §3.1.3 "Tool deployment"; Security Framework 1.0, §5.1.1 */
export const NewPlatform = z.strictObject({
  name,
  issuer: needed,
  clientId: needed,
  /** With commas between them. */
  deploymentIds: z.array(needed).min(1, message('The platform tells this when the tool is set up there.').id).max(50),
  authorizationUrl: address,
  tokenUrl: address,
  keysUrl: address,
})
export type NewPlatform = z.infer<typeof NewPlatform>

/** What the app's page of a launch tells. */
export const LaunchProgress = z.strictObject({
  /** As `packListening` writes it. */
  heard: z.string().max(4096),
  /** How much of what must be heard was, 0 to 1. */
  result: z.number().min(0).max(1),
  isCompleted: z.boolean(),
})
export type LaunchProgress = z.infer<typeof LaunchProgress>
