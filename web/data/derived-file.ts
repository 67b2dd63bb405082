/** Small files the server makes of a take; they never change, so each is fetched once. */

const fetched = new Map<string, Promise<ArrayBuffer>>()

export function derivedFile(url: string): Promise<ArrayBuffer> {
  let bytes = fetched.get(url)
  if (!bytes) {
    bytes = fetch(url).then((response) => {
      if (!response.ok) throw new Error(`${url} answered ${response.status}`)
      return response.arrayBuffer()
    })
    fetched.set(url, bytes)
    bytes.catch(() => fetched.delete(url))
  }
  return bytes
}
