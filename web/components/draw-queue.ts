/** Draws what may come a moment later, one thing a frame: rows that are scrolled into view must not hold up the scrolling. */

const waiting: (() => void)[] = []
let asked = false

function next() {
  waiting.shift()?.()
  asked = waiting.length > 0
  if (asked) requestAnimationFrame(next)
}

export function drawSoon(draw: () => void) {
  waiting.push(draw)
  if (asked) return
  asked = true
  requestAnimationFrame(next)
}
