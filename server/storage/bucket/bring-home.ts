import type { BucketStore } from './bucket-store.ts'

/**
 * Brings every file to this machine's disk and forgets the store, whose objects stay as they are. What is broken off goes on the next time.
 *
 * @param report told after each file: how many of how many
 */
export async function bringHome(store: BucketStore, report: (done: number, all: number) => void) {
  const rows = await store.sent.all()
  let brought = 0
  for (const [i, { name }] of rows.entries()) {
    if (!(await store.local.has(name))) brought++
    await store.bring(name)
    await store.sent.forget(name)
    report(i + 1, rows.length)
  }
  return { files: rows.length, brought }
}
