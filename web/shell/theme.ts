/** Day, night, or as the system has it; kept in this browser. */
export type Theme = 'system' | 'lectern-day' | 'lectern-night'

const KEY = 'theme'

export const storedTheme = (): Theme => {
  const value = localStorage.getItem(KEY)
  return value === 'lectern-day' || value === 'lectern-night' ? value : 'system'
}

export function applyTheme(theme: Theme = storedTheme()) {
  if (theme === 'system') {
    localStorage.removeItem(KEY)
    document.documentElement.removeAttribute('data-theme')
  } else {
    localStorage.setItem(KEY, theme)
    document.documentElement.dataset.theme = theme
  }
}
