/** Objects in a store that speaks S3, each a file under its name. Nothing but names, bytes and lengths is asked of it, so that any such store will do. */
import { createHash } from 'node:crypto'
import { createReadStream } from 'node:fs'
import { pipeline, type Readable, Transform } from 'node:stream'
import {
  AbortMultipartUploadCommand,
  DeleteObjectCommand,
  GetObjectCommand,
  HeadBucketCommand,
  HeadObjectCommand,
  ListMultipartUploadsCommand,
  paginateListObjectsV2,
  S3Client,
  S3ServiceException,
} from '@aws-sdk/client-s3'
import { Upload } from '@aws-sdk/lib-storage'
import { message } from '#core/words/say.ts'
import type { StoreSetting } from '#server/config/store-setting.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { DamagedFile } from './damaged-file.ts'

export interface Bucket {
  /** As people know it. */
  readonly address: string
  /** @returns bytes; null where there is no such object */
  size(name: string): Promise<number | null>
  /**
   * Sends a file, whole or not at all.
   *
   * @returns its bytes
   * @throws DamagedFile when its content is not what its name says
   */
  send(name: string, path: string): Promise<number>
  /** @param range of bytes, both ends included */
  stream(name: string, range?: { start: number; end: number }): Promise<Readable>
  /** Where there is none, nothing happens. */
  remove(name: string): Promise<void>
  /** All objects, and when each was put there (milliseconds since 1970). */
  list(): AsyncGenerator<{ name: string; at: number }>
  /** Lets parts go of files that somebody began to send before a moment (milliseconds since 1970) and never sent whole. */
  clearBroken(before: number): Promise<void>
  /** @throws UserFacingError when the bucket cannot be used */
  check(): Promise<void>
  close(): void
}

/** A part of a large file; S3 takes no smaller ones than 5 MiB. */
const PART_BYTES = 8 * 1024 ** 2
const PARTS_AT_ONCE = 2
const NO_ANSWER_MS = 20_000
const TRIES = 3

const isMissing = (error: unknown) => error instanceof S3ServiceException && error.$metadata.httpStatusCode === 404

/** Passes a file through and breaks off at its end where its content is not its name's. */
function checking(name: string) {
  const hash = createHash('sha256')
  let bytes = 0
  const stream = new Transform({
    transform(piece: Buffer, _, done) {
      hash.update(piece)
      bytes += piece.length
      done(null, piece)
    },
    flush(done) {
      done(hash.digest('hex') === name ? null : new DamagedFile(name))
    },
  })
  return { stream, bytes: () => bytes }
}

function clientFor({ endpoint, region }: StoreSetting) {
  // its later versions will want a newer Node than this one runs on, which nobody who starts a server can do anything about
  process.env.AWS_SDK_JS_NODE_VERSION_SUPPORT_WARNING_DISABLED ??= 'true'
  return new S3Client({
    region,
    ...(endpoint === null ? {} : { endpoint, forcePathStyle: true }),
    maxAttempts: TRIES,
    requestHandler: { connectionTimeout: 5000, requestTimeout: NO_ANSWER_MS, throwOnRequestTimeout: true },
    // stores other than the largest refuse the checksums that its newest clients add; what is sent is signed by its SHA-256 all the same
    requestChecksumCalculation: 'WHEN_REQUIRED',
    responseChecksumValidation: 'WHEN_REQUIRED',
  })
}

export function openBucket(setting: StoreSetting): Bucket {
  const { bucket: Bucket, prefix, address } = setting
  const client = clientFor(setting)
  const at = (name: string) => ({ Bucket, Key: `${prefix}${name.slice(0, 2)}/${name}` })

  /** Says in words what keeps the store from answering. */
  const inWords = (error: unknown): UserFacingError => {
    const { name, message: said } = error as Error
    const reason = error instanceof S3ServiceException ? name : (error as NodeJS.ErrnoException).code || said || name
    return new UserFacingError(
      message(
        'The store of files {address} does not answer as it should ({reason}). What is recorded is kept on this machine meanwhile. Look at the store, and at LECTERN_STORE and its key.',
        { address, reason },
      ),
      503,
    )
  }
  const asked = <T>(answer: Promise<T>): Promise<T> =>
    answer.catch((error) => {
      throw error instanceof DamagedFile ? error : inWords(error)
    })

  return {
    address,
    async size(name) {
      const answer = await asked(
        client.send(new HeadObjectCommand(at(name))).catch((error) => {
          if (isMissing(error)) return null
          throw error
        }),
      )
      return answer ? (answer.ContentLength ?? 0) : null
    },
    async send(name, path) {
      const checked = checking(name)
      // what goes wrong with either is told by the upload
      const body = pipeline(createReadStream(path, { highWaterMark: 1 << 18 }), checked.stream, () => {})
      const upload = new Upload({
        client,
        params: { ...at(name), Body: body, ContentType: 'application/octet-stream' },
        partSize: PART_BYTES,
        queueSize: PARTS_AT_ONCE,
      })
      await asked(upload.done())
      return checked.bytes()
    },
    async stream(name, range) {
      const Range = range && `bytes=${range.start}-${range.end}`
      const { Body } = await asked(client.send(new GetObjectCommand({ ...at(name), ...(Range && { Range }) })))
      return Body as Readable
    },
    async remove(name) {
      await asked(client.send(new DeleteObjectCommand(at(name))))
    },
    async *list() {
      for await (const { Contents = [] } of paginateListObjectsV2({ client }, { Bucket, Prefix: prefix }))
        for (const { Key, LastModified } of Contents)
          yield { name: Key!.split('/').at(-1)!, at: LastModified?.getTime() ?? Date.now() }
    },
    async clearBroken(before) {
      const { Uploads = [] } = await asked(client.send(new ListMultipartUploadsCommand({ Bucket, Prefix: prefix })))
      for (const { Key, UploadId, Initiated } of Uploads)
        if ((Initiated?.getTime() ?? 0) < before)
          await asked(client.send(new AbortMultipartUploadCommand({ Bucket, Key: Key!, UploadId: UploadId! })))
    },
    async check() {
      await asked(client.send(new HeadBucketCommand({ Bucket })))
    },
    close: () => client.destroy(),
  }
}
