/** The practice camera: a stand-in before which nobody sits. A drawn face moves its mouth. */
import { drawnTrack } from './drawn-track.ts'
import type { OpenPictures } from './open-pictures.ts'

const SIZE = { width: 1280, height: 720 }
const [MIDDLE, UP] = [640, 330]

function ellipse(pen: CanvasRenderingContext2D, x: number, y: number, width: number, height: number, colour: string) {
  pen.beginPath()
  pen.ellipse(x, y, width, height, 0, 0, 2 * Math.PI)
  pen.fillStyle = colour
  pen.fill()
}

export const openPracticeCamera = (name: string): OpenPictures =>
  drawnTrack(name, SIZE, (pen, _, seconds) => {
    pen.fillStyle = '#54717a'
    pen.fillRect(0, 0, SIZE.width, SIZE.height)
    const sway = 12 * Math.sin(seconds * 0.8)
    const x = MIDDLE + sway
    ellipse(pen, x, 760, 300, 240, '#2f4a52')
    ellipse(pen, x, UP, 170, 210, '#e3c4a0')
    ellipse(pen, x, UP - 150, 176, 96, '#4b3a2c')
    const blinks = seconds % 4 > 3.85
    for (const side of [-1, 1]) ellipse(pen, x + side * 62, UP - 20, 17, blinks ? 3 : 17, '#27323a')
    const opens = 8 + 26 * Math.abs(Math.sin(seconds * 7) * Math.sin(seconds * 2.3))
    ellipse(pen, x, UP + 96, 52, opens, '#7c3b36')
  })
