/** The product's own mark: a tidy lectern seen from the side. */
export const Mark = () => (
  <svg viewBox="0 0 32 32" width="28" height="28" aria-hidden="true" className="text-primary">
    <path fill="currentColor" d="M4 9 28 4v7L4 16zM14 17h4v10h4v2H10v-2h4z" />
  </svg>
)
