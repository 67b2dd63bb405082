/** Whether a dialog has the page to itself. By itself: what asks this must not bring the dialogs with it. */
export const isDialogOpen = () => document.querySelector('.modal-open') !== null
