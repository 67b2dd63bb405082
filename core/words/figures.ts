/** Figures as people read them, in their language and as their region writes them. */
import { isolated, language, locale } from './say.ts'

/** Making one takes a millisecond, and a sheet shows hundreds of figures. */
const formats = new Map<string, Intl.NumberFormat>()
function formatOf(digits: number, leading: number): Intl.NumberFormat {
  const key = `${language()} ${digits} ${leading}`
  const known = formats.get(key)
  const made =
    known ??
    new Intl.NumberFormat(locale(), {
      minimumFractionDigits: digits,
      maximumFractionDigits: digits,
      minimumIntegerDigits: leading,
      useGrouping: false,
    })
  formats.set(key, made)
  return made
}

/**
 * A number with so many digits behind the decimal sign.
 *
 * @param leading digits before it, at the least
 */
export function figure(value: number, digits = 0, leading = 1): string {
  const text = formatOf(digits, leading).format(value).replace('-', '−')
  return value < 0 ? isolated(text, 'ltr') : text
}
