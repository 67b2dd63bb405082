import type { ReactNode } from 'react'
import { Button } from '#web/components/button.tsx'
import { Key } from '#web/components/keys/key.tsx'

/** A small tool beside a sound, with the key that does the same. */
export const ToolButton = ({ children, onClick, shortcut }: { children: ReactNode; onClick: () => void; shortcut?: string }) => (
  <Button size="xs" onClick={onClick}>
    {children} {shortcut && <Key>{shortcut}</Key>}
  </Button>
)
