/** The watch page in a folder of its own: no server, no other request than for the files beside it. */
import { createRoot } from 'react-dom/client'
import '../styles.css'
import type { WatchedEdition } from '#web/watch/edition/edition.ts'
import { Player } from './player.tsx'

declare global {
  interface Window {
    lecternEdition: WatchedEdition & { captionTexts: Record<string, string> }
  }
}

const { captionTexts, ...edition } = window.lecternEdition
createRoot(document.getElementById('root')!).render(
  <Player
    source={{
      edition,
      fileUrl: (name) => `files/${name}`,
      // a page opened from a disk may not read files, so the captions came with it
      captions: async (track) => captionTexts[track.file] ?? '',
      whyNot: async () => null,
      folderUrl: null,
      place: edition.id,
      onBegin: () => {},
    }}
  />,
)
