/** Files from the clipboard, such as a picture that was copied: they are taken like files that are dropped. */
import { useEffect, useRef } from 'react'
import { isDialogOpen } from './is-dialog-open.ts'

const ENDINGS: Record<string, string> = { 'image/png': 'png', 'image/jpeg': 'jpg', 'image/webp': 'webp', 'image/svg+xml': 'svg' }

export function usePastedFiles(take: (files: File[]) => void) {
  const latest = useRef(take)
  latest.current = take
  useEffect(() => {
    const onPaste = (event: ClipboardEvent) => {
      const { tagName, isContentEditable } = event.target as HTMLElement
      // text that is pasted into a field belongs to it
      if (isContentEditable || ['INPUT', 'TEXTAREA', 'SELECT'].includes(tagName) || isDialogOpen()) return
      const files = [...(event.clipboardData?.files ?? [])].map((file) =>
        // browsers give every copied picture the same name
        /^image\.\w+$/.test(file.name)
          ? new File([file], `pasted picture.${ENDINGS[file.type] ?? 'png'}`, { type: file.type })
          : file,
      )
      if (files.length === 0) return
      event.preventDefault()
      latest.current(files)
    }
    window.addEventListener('paste', onPaste)
    return () => window.removeEventListener('paste', onPaste)
  }, [])
}
