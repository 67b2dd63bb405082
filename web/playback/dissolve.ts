/** What a film showed before it jumped goes over into what follows, as editions have it. */

/** Common practice, no published source: as long as editions take for it. */
const DISSOLVE_MS = 130

/** Leaves a picture of the film over it, which fades. */
export function dissolve(element: HTMLVideoElement) {
  const { videoWidth: width, videoHeight: height, parentElement: holder } = element
  if (!holder || width === 0) return
  const picture = document.createElement('canvas')
  Object.assign(picture, { width, height, className: element.className })
  picture.style.cssText = element.style.cssText
  picture.getContext('2d')?.drawImage(element, 0, 0)
  element.after(picture)
  const fading = picture.animate({ opacity: [1, 0] }, { duration: DISSOLVE_MS })
  const end = () => picture.remove()
  fading.onfinish = end
  fading.oncancel = end
}
