/** The waveform of a row. As a path: a canvas of each row would be put together anew with every frame that is scrolled. */
import { useEffect, useState } from 'react'
import type { SampleRange } from '#core/model/sample-range.ts'
import { drawSoon } from '#web/components/draw-queue.ts'
import { derivedFile } from '#web/data/derived-file.ts'
import { peaksPath } from './peaks.ts'

interface StripProps {
  /** Of its peaks. */
  address: string
  /** What of the sound is drawn, in samples. */
  stretches: readonly SampleRange[]
  /** Width of the whole strip; the scale is that of the sheet. */
  width: number
  height: number
  label: string
}

export function Strip({ address, stretches, width, height, label }: StripProps) {
  const [path, setPath] = useState('')
  const drawn = JSON.stringify(stretches)
  useEffect(() => {
    let current = true
    void derivedFile(address).then((bytes) =>
      drawSoon(() => {
        if (current) setPath(peaksPath(new Int16Array(bytes), JSON.parse(drawn), Math.round(width), height))
      }),
    )
    return () => {
      current = false
    }
  }, [address, drawn, width, height])
  return (
    <svg role="img" aria-label={label} className="block text-primary" style={{ width, height }}>
      <path d={path} fill="currentColor" />
    </svg>
  )
}
