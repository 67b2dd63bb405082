/** What a field is called, and what is wrong with what stands in it: told at the field, to ears as to eyes (WCAG 2.2, 3.3.1 and 1.3.1). */
import { type ReactNode, useId } from 'react'

interface Control {
  id: string
  'aria-invalid': boolean
  'aria-describedby': string | undefined
}

interface FieldProps {
  label: string
  /** Null when nothing is wrong. */
  error?: string | null
  /** How label and field stand: classes. */
  layout?: string
  labelLook?: string
  children: (control: Control) => ReactNode
}

export function Field({ label, error = null, layout = 'grid gap-1 text-sm', labelLook = 'font-medium', children }: FieldProps) {
  const id = useId()
  const wrong = `${id}-wrong`
  return (
    <div className="grid gap-1">
      <div className={layout}>
        <label htmlFor={id} className={labelLook}>
          {label}
        </label>
        {children({ id, 'aria-invalid': error !== null, 'aria-describedby': error === null ? undefined : wrong })}
      </div>
      {error !== null && (
        <p id={wrong} role="alert" className="text-sm text-error">
          {error}
        </p>
      )}
    </div>
  )
}
