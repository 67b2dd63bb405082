/** The name of a key, as it stands on a button. */
export const Key = ({ children }: { children: string }) => (
  <kbd className="rounded border border-current/40 px-1.5 py-0.5 font-sans text-xs">{children}</kbd>
)
