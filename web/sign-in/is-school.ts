/** Whether people sign in here: the page says so, so that whoever is alone waits for nothing. */
export const isSchool = () => document.querySelector('meta[name="lectern-mode"]')?.getAttribute('content') === 'school'
