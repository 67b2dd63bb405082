/** Two windows that changed one text: both changes in one, where they are of different words. */

let merging: Promise<typeof import('#core/script/edit/merge-texts.ts')> | undefined

/** @returns null where somebody has to say which stays. What puts them together is loaded when it is wanted first. */
export async function together(base: string, mine: string, theirs: string): Promise<string | null> {
  merging ??= import('#core/script/edit/merge-texts.ts')
  try {
    return (await merging).mergeTexts(base, mine, theirs)
  } catch {
    // it could not be loaded: it is tried again the next time, and somebody is asked now
    merging = undefined
    return null
  }
}

/** Who types goes on behind the same words, when the text around them becomes another. */
export function keepPlace(mine: string, merged: string) {
  const field = document.activeElement
  if (!(field instanceof HTMLTextAreaElement || field instanceof HTMLInputElement) || field.value !== mine) return
  const [start, end] = [field.selectionStart ?? 0, field.selectionEnd ?? 0]
  // after it is shown
  requestAnimationFrame(() => {
    void merging?.then(({ placeIn }) => {
      if (field.value === merged) field.setSelectionRange(placeIn(mine, merged, start), placeIn(mine, merged, end))
    })
  })
}
