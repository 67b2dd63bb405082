/** Every button: what it looks like says how much it does. */
import type { ComponentProps } from 'react'

export interface ButtonLook {
  /** The one act a place is for; one among several; what stands beside things without a frame; one that is switched on. */
  kind?: 'primary' | 'plain' | 'ghost' | 'neutral'
  size?: 'xs' | 'sm' | 'md'
  /** With a picture only: it needs a label. */
  square?: boolean
  className?: string | undefined
}

const KINDS = { primary: 'btn-primary', plain: 'border-edge', ghost: 'btn-ghost', neutral: 'btn-neutral' }
const SIZES = { xs: 'btn-xs', sm: 'btn-sm', md: '' }

/** For links and summaries that look like buttons. */
export const buttonLook = ({ kind = 'plain', size = 'sm', square = false, className }: ButtonLook = {}) =>
  ['btn', square && 'btn-square', SIZES[size], KINDS[kind], className].filter(Boolean).join(' ')

export function Button({ kind, size, square, className, ...rest }: ButtonLook & Omit<ComponentProps<'button'>, 'className'>) {
  return <button type="button" {...rest} className={buttonLook({ kind, size, square, className })} />
}
