/** A field for what is sought. */
import { Search } from 'lucide-react'
import type { ComponentProps } from 'react'

interface SearchFieldProps extends Omit<ComponentProps<'input'>, 'type' | 'onChange'> {
  /** Of the field as a whole: its width. */
  className: string
  onSeek: (words: string) => void
}

export const SearchField = ({ className, onSeek, ...rest }: SearchFieldProps) => (
  <label className={`input input-sm border-edge bg-base-100 ${className}`}>
    <Search size={14} aria-hidden className="shrink-0 text-base-content/60" />
    <input type="search" maxLength={200} {...rest} onChange={({ target }) => onSeek(target.value)} />
  </label>
)
