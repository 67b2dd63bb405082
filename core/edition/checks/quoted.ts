/** Sentences in a finding, each no longer than a line of it. */
export const quoted = (texts: readonly string[]) =>
  texts.map((text) => `“${text.length > 60 ? `${text.slice(0, 57)}…` : text}”`).join(', ')
