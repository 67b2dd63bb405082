/** A line of a form. */
import type { ComponentProps } from 'react'
import { Field } from '#web/components/fields/field.tsx'

interface TextFieldProps extends ComponentProps<'input'> {
  label: string
  error?: string | null
}

export const TextField = ({ label, error = null, ...rest }: TextFieldProps) => (
  <Field label={label} error={error}>
    {(control) => <input {...control} className="input w-full border-edge bg-base-100" maxLength={200} {...rest} />}
  </Field>
)
