/** What a link opens, and what is to be told of it where a learning platform opened the page. */
import type { Opened, Source } from '#web/watch/edition/edition.ts'

/** @param launch by which a learning platform opened the page; null where none did */
export async function withLaunch(token: string, opened: Opened, launch: string | null): Promise<Opened> {
  if (launch === null || !('source' in opened)) return opened
  const { source } = opened
  // who comes by the link alone loads nothing of it
  const { openLaunch } = await import('./launch-report.ts')
  const { onMoment, ...told } = await openLaunch(token, launch, source.edition)
  const see: Source['onMoment'] = (moment, isPlaying) => {
    source.onMoment?.(moment, isPlaying)
    onMoment?.(moment, isPlaying)
  }
  return { source: { ...source, ...told, onMoment: see } }
}
