/** Draws the demo's film: rain that falls through a gauge's funnel into its tube. Usage: npx tsx demo/make/film.ts */
import { spawn } from 'node:child_process'
import { join } from 'node:path'
import { createCanvas } from '@napi-rs/canvas'

const [WIDTH, HEIGHT, RATE, SECONDS] = [960, 540, 30, 6]
const OUT = join(import.meta.dirname, '../files/rain-in-the-gauge.mp4')
/** Each half second a drop falls into the water. */
const DROPS = "aevalsrc=exprs='0.25*exp(-18*mod(t,0.5))*sin(2*PI*(900-500*mod(t,0.5))*t)':s=48000:d=6"

const canvas = createCanvas(WIDTH, HEIGHT)
const c = canvas.getContext('2d')

function line(width: number, ...points: [number, number][]) {
  c.lineWidth = width
  c.beginPath()
  for (const [i, [x, y]] of points.entries()) i === 0 ? c.moveTo(x, y) : c.lineTo(x, y)
  c.stroke()
}

function rain(t: number) {
  c.strokeStyle = '#5b86a6'
  for (let k = 0; k < 60; k++) {
    const x = (k * 97 + 31) % WIDTH
    const y = ((k * 53 + t * 420 * (0.8 + (k % 5) * 0.1)) % (HEIGHT + 40)) - 40
    // under the funnel it is dry
    if (y < 150 || x < 330 || x > 630) line(3, [x, y], [x - 3, y + 16])
  }
}

function gauge(t: number) {
  const level = 470 - (150 * t) / SECONDS
  c.strokeStyle = '#1d2a2e'
  line(6, [330, 110], [460, 220], [460, 250])
  line(6, [630, 110], [500, 220], [500, 250])
  c.fillStyle = '#7fb0cf'
  c.fillRect(443, level, 74, 480 - level)
  c.strokeRect(440, 260, 80, 222)
  for (let mark = 0; mark < 10; mark++) line(2, [524, 470 - 20 * mark], [540 + (mark % 5 === 0 ? 14 : 0), 470 - 20 * mark])
  const fallen = (t * 2) % 1
  c.fillStyle = '#5b86a6'
  c.beginPath()
  c.arc(480, 252 + fallen * fallen * (level - 260), 7, 0, 7)
  c.fill()
}

const tool = spawn(
  'ffmpeg',
  [
    ...[
      '-v',
      'error',
      '-y',
      '-f',
      'rawvideo',
      '-pix_fmt',
      'rgba',
      '-s',
      `${WIDTH}x${HEIGHT}`,
      '-r',
      String(RATE),
      '-i',
      'pipe:0',
    ],
    ...['-f', 'lavfi', '-i', DROPS, '-c:v', 'libx264', '-preset', 'veryslow', '-crf', '26', '-pix_fmt', 'yuv420p'],
    ...[
      '-c:a',
      'aac',
      '-b:a',
      '64k',
      '-map_metadata',
      '-1',
      '-fflags',
      '+bitexact',
      '-flags:v',
      '+bitexact',
      '-flags:a',
      '+bitexact',
    ],
    ...['-movflags', '+faststart', '-shortest', OUT],
  ],
  { stdio: ['pipe', 'inherit', 'inherit'] },
)
for (let i = 0; i < SECONDS * RATE; i++) {
  c.fillStyle = '#f3efe4'
  c.fillRect(0, 0, WIDTH, HEIGHT)
  rain(i / RATE)
  gauge(i / RATE)
  tool.stdin.write(Buffer.from(c.getImageData(0, 0, WIDTH, HEIGHT).data.buffer))
}
tool.stdin.end()
