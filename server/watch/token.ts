import { randomBytes } from 'node:crypto'

/** 128 random bits, as they stand in a watch address. */
export const newToken = () => randomBytes(16).toString('base64url')
