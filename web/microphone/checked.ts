/** Under which the browser keeps when a microphone was tried out. */
export const CHECKED_KEY = 'microphone checked'
