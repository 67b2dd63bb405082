/** The watch page where the edition came with it: no server, no other request than for the files beside it. */

import ar from 'virtual:words/folder/ar'
import de from 'virtual:words/folder/de'
import en from 'virtual:words/folder/en'
import es from 'virtual:words/folder/es'
import fr from 'virtual:words/folder/fr'
import { createRoot } from 'react-dom/client'
import { type Catalogues, speakAsReader } from '#web/words/page-language.ts'
import './styles.css'
import type { Source, WatchedEdition } from '#web/watch/edition/edition.ts'
import { Player } from './player.tsx'

declare global {
  interface Window {
    lecternEdition: WatchedEdition & { captionTexts: Record<string, string> }
  }
}

const WORDS: Catalogues = {
  en: async () => ({ default: en }),
  de: async () => ({ default: de }),
  fr: async () => ({ default: fr }),
  es: async () => ({ default: es }),
  ar: async () => ({ default: ar }),
  pseudo: async () => ({ default: en }),
}

export const packedEdition = (): WatchedEdition => window.lecternEdition

/** @param begin what else the page needs to know, once it speaks the reader's language */
export async function showPacked(begin: () => Promise<Partial<Source>> = async () => ({})) {
  const { captionTexts, ...edition } = window.lecternEdition
  await speakAsReader(WORDS)
  const source: Source = {
    edition,
    fileUrl: (name) => `files/${name}`,
    // a page opened from a disk may not read files, so the captions came with it
    captions: async (track) => captionTexts[track.file] ?? '',
    whyNot: async () => null,
    isOutdated: async () => false,
    folderUrl: null,
    pageUrl: null,
    place: edition.id,
    onBegin: () => {},
    ...(await begin()),
  }
  createRoot(document.getElementById('root')!).render(<Player source={source} />)
}
