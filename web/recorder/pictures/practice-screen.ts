/** The practice screen: a stand-in for one that is shared. A small program is used on it, over and over: a table is filled in, line by line. */
import { drawnTrack } from './drawn-track.ts'
import type { OpenPictures } from './open-pictures.ts'

const SIZE = { width: 1280, height: 720 }
const INK = '#23323a'
const PAPER = '#f7f5ee'
const LINES: [string, string][] = [
  ['07:00', '0.42'],
  ['07:05', '0.10'],
  ['07:00', '0.00'],
  ['07:10', '1.18'],
  ['07:00', '0.07'],
]
/** Seconds that a line takes. */
const LINE_S = 3
const ROW = 72
const TOP = 190

function table(pen: CanvasRenderingContext2D, seconds: number) {
  pen.font = '28px sans-serif'
  for (const [i, [time, rain]] of LINES.entries()) {
    const since = seconds - i * LINE_S
    const typed = `${time}   ${rain}`.slice(0, Math.max(0, Math.floor(since * 5)))
    const y = TOP + i * ROW
    pen.fillStyle = since >= 0 && since < LINE_S ? '#ffffff' : PAPER
    pen.fillRect(140, y - 44, 1000, ROW - 8)
    pen.fillStyle = INK
    pen.fillText(`${i + 1}`, 160, y)
    pen.fillText(typed, 240, y)
    if (since >= 0 && since < LINE_S && Math.floor(seconds * 2) % 2 === 0)
      pen.fillRect(242 + pen.measureText(typed).width, y - 26, 3, 32)
  }
}

function pointer(pen: CanvasRenderingContext2D, x: number, y: number) {
  pen.beginPath()
  pen.moveTo(x, y)
  for (const [dx, dy] of [
    [0, 30],
    [8, 23],
    [15, 36],
    [20, 33],
    [14, 21],
    [23, 20],
  ] as const)
    pen.lineTo(x + dx, y + dy)
  pen.closePath()
  pen.fillStyle = '#000'
  pen.fill()
  pen.strokeStyle = '#fff'
  pen.lineWidth = 2
  pen.stroke()
}

export const openPracticeScreen = (name: string): OpenPictures =>
  drawnTrack(name, SIZE, (pen, _, seconds) => {
    const now = seconds % (LINES.length * LINE_S + 2)
    pen.fillStyle = '#d8dedb'
    pen.fillRect(0, 0, SIZE.width, SIZE.height)
    pen.fillStyle = INK
    pen.fillRect(100, 60, 1080, 56)
    pen.fillStyle = PAPER
    pen.font = '26px sans-serif'
    pen.fillText(name, 124, 97)
    pen.fillRect(100, 116, 1080, 520)
    table(pen, now)
    pointer(pen, 760 + 180 * Math.sin(now * 0.9), 330 + 160 * Math.sin(now * 1.3))
  })
