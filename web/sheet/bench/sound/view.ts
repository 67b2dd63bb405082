/** Which part of a take is seen: zooming and scrolling as functions from one view to the next. Seconds of the take. */
export interface View {
  start: number
  end: number
}

const SHORTEST_S = 0.2

export const whole = (length: number): View => ({ start: 0, end: length })

const inside = (start: number, span: number, length: number): View => {
  const shown = Math.min(length, Math.max(Math.min(SHORTEST_S, length), span))
  const from = Math.max(0, Math.min(length - shown, start))
  return { start: from, end: from + shown }
}

/** @param factor below 1 comes nearer; the moment `at` stays where it is on the screen */
export function zoom(view: View, factor: number, at: number, length: number): View {
  const span = Math.max(SHORTEST_S, (view.end - view.start) * factor)
  const share = (at - view.start) / (view.end - view.start)
  return inside(at - share * span, span, length)
}

export function scroll(view: View, by: number, length: number): View {
  return inside(view.start + by, view.end - view.start, length)
}

/** Scrolls as little as needed to show a moment. */
export function reveal(view: View, moment: number, length: number): View {
  if (moment >= view.start && moment <= view.end) return view
  const span = view.end - view.start
  return inside(moment < view.start ? moment - span * 0.1 : moment - span * 0.9, span, length)
}

export const toPixels = (view: View, width: number, seconds: number) => ((seconds - view.start) / (view.end - view.start)) * width
export const fromPixels = (view: View, width: number, x: number) => view.start + (x / width) * (view.end - view.start)

const TICKS = [0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 30, 60, 300]

/** @returns moments for ticks at least 80 pixels apart */
export function ticksOf(view: View, width: number): number[] {
  const step = TICKS.find((t) => (t / (view.end - view.start)) * width >= 80) ?? 600
  const first = Math.ceil(view.start / step)
  return Array.from({ length: Math.max(0, Math.floor(view.end / step) - first + 1) }, (_, i) => (first + i) * step)
}
