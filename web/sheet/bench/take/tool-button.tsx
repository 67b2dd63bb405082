import type { ReactNode } from 'react'
import { Key } from '#web/components/keys/key-list.tsx'

/** A small tool beside a sound, with the key that does the same. */
export const ToolButton = ({ children, onClick, shortcut }: { children: ReactNode; onClick: () => void; shortcut?: string }) => (
  <button type="button" className="btn btn-xs border-edge" onClick={onClick}>
    {children} {shortcut && <Key>{shortcut}</Key>}
  </button>
)
