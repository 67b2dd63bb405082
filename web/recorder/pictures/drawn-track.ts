/** A track of pictures that this page draws itself, at an even rate. */
import type { OpenPictures } from './open-pictures.ts'

const RATE = 30

/** @param draw is told how many pictures were drawn before, and seconds since the first */
export function drawnTrack(
  name: string,
  size: { width: number; height: number },
  draw: (pen: CanvasRenderingContext2D, number: number, seconds: number) => void,
): OpenPictures {
  const canvas = document.createElement('canvas')
  canvas.width = size.width
  canvas.height = size.height
  const pen = canvas.getContext('2d', { alpha: false })!
  const began = performance.now()
  let number = 0
  const next = () => draw(pen, number++, (performance.now() - began) / 1000)
  next()
  const timer = setInterval(next, 1000 / RATE)
  const stream = canvas.captureStream(RATE)
  return {
    track: stream.getVideoTracks()[0]! as MediaStreamVideoTrack,
    stream,
    name,
    isPractice: true,
    close() {
      clearInterval(timer)
      for (const track of stream.getTracks()) track.stop()
    },
  }
}
