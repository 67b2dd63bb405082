/** `virtual:words/PAGE/LANGUAGE`: the catalogue of a page, compiled from the messages its script can say. */
import type { Plugin } from 'vite'
import type { Language } from '#core/words/languages.ts'
import { catalogueFile, compiledCatalogue, TRANSLATED } from './catalogues.ts'
import { messagesOfPage } from './messages.ts'

const PAGES: Record<string, { entry: string; told: string[] }> = {
  // what the server refuses, and what its jobs say, in core's words too
  author: { entry: 'web/main.tsx', told: ['server', 'core'] },
  watch: { entry: 'web/watch/main.tsx', told: ['server/watch', 'server/http/routes/watch'] },
  // one of a package says some more
  folder: { entry: 'web/watch/package.tsx', told: [] },
}
const NAME = /^virtual:words\/(\w+)\/(\w+)$/

export function words(): Plugin {
  const known = new Map<string, Set<string>>()
  const messagesOf = (page: string) => {
    const messages = known.get(page) ?? messagesOfPage(PAGES[page]!.entry, PAGES[page]!.told)
    known.set(page, messages)
    return messages
  }
  return {
    name: 'words',
    resolveId: (id) => (NAME.test(id) ? `\0${id}` : null),
    load(id) {
      const [, page, language] = NAME.exec(id.slice(1)) ?? []
      if (!page || !id.startsWith('\0')) return null
      for (const translated of TRANSLATED) this.addWatchFile(catalogueFile(translated))
      return `export default ${JSON.stringify(compiledCatalogue(language as Language | 'pseudo', messagesOf(page)))}`
    },
    // what is said anew is there when the page is loaded again
    handleHotUpdate: () => known.clear(),
  }
}
