/** Where files are kept beyond this machine's disk. */

import { message } from '#core/words/say.ts'
import { SettingError } from './setting-error.ts'

export interface StoreSetting {
  bucket: string
  /** What names of objects begin with: '' or "school/". */
  prefix: string
  /** Null: as the client finds it by the region. */
  endpoint: string | null
  region: string
  /** How it is named to people and in the database: without the region, which changes nothing. */
  address: string
  /** So much of this machine's disk files may take that are in the store as well. */
  localBytes: number
}

const USUAL_LOCAL_GB = 20
const REGION = 'us-east-1'

/**
 * @param given "s3://bucket/prefix?endpoint=https://files.example&region=eu"; the key comes from AWS_ACCESS_KEY_ID and
 * AWS_SECRET_ACCESS_KEY, or where else the client of such stores looks
 * @param localGb gigabytes
 * @throws SettingError
 */
export function storeSettingOf(given: string | undefined, localGb: string | undefined): StoreSetting | null {
  if (!given) return null
  const url = URL.canParse(given) ? new URL(given) : null
  const endpoint = url?.searchParams.get('endpoint') ?? null
  const isEndpoint = endpoint === null || (URL.canParse(endpoint) && /^https?:$/.test(new URL(endpoint).protocol))
  if (url?.protocol !== 's3:' || !/^[a-z0-9][a-z0-9.-]{1,61}[a-z0-9]$/.test(url.hostname) || !isEndpoint || url.username)
    throw new SettingError(
      message(
        'LECTERN_STORE must look like s3://bucket/prefix?endpoint=https://files.example; it is “{given}”. The key belongs into AWS_ACCESS_KEY_ID and AWS_SECRET_ACCESS_KEY.',
        { given: given.replace(/\/\/[^@/]*@/, '//…@') },
      ),
    )
  const localBytes = Number(localGb || USUAL_LOCAL_GB) * 1e9
  if (!(localBytes > 0))
    throw new SettingError(
      message('LECTERN_STORE_LOCAL must be how many gigabytes of this machine’s disk may be used, not “{given}”.', {
        given: localGb ?? '',
      }),
    )
  const prefix = url.pathname.replace(/^\/+|\/+$/g, '')
  const path = prefix ? `${prefix}/` : ''
  return {
    bucket: url.hostname,
    prefix: path,
    endpoint: endpoint === null ? null : endpoint.replace(/\/+$/, ''),
    region: url.searchParams.get('region') ?? REGION,
    address: `s3://${url.hostname}/${path}${endpoint === null ? '' : ` (${new URL(endpoint).host})`}`,
    localBytes,
  }
}
