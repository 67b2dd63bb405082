/** A wide level bar with three named zones, peak hold, and words for those who do not look at bars. */

import { useEffect, useRef, useState } from 'react'
import { toDb } from '#core/audio/signal/pcm.ts'
import { type Message, message, say } from '#core/words/say.ts'
import { decibels, lufs } from '#web/components/format.ts'
import type { LevelFeed } from '#web/recorder/feed.ts'

const LOWEST_DB = -60
/** Common practice, no published source: speech peaks between −30 and −6 dBFS leave room above and stand clear of the noise. */
const QUIET_BELOW_DB = -30
const LOUD_ABOVE_DB = -6
const HOLD_MS = 1500
const SPOKEN_EVERY_MS = 1000

const share = (db: number) => Math.max(0, Math.min(1, (db - LOWEST_DB) / -LOWEST_DB)) * 100

type Zone = 'too quiet' | 'good' | 'too loud'
const ZONE_WORDS: Record<Zone, Message> = {
  'too quiet': message('too quiet'),
  good: message('good'),
  'too loud': message('too loud'),
}
const zoneOf = (db: number): Zone => (db < QUIET_BELOW_DB ? 'too quiet' : db > LOUD_ABOVE_DB ? 'too loud' : 'good')

interface LevelBarProps {
  level: LevelFeed
  /** Nothing listens yet: no zone is named, for nothing is too quiet that is not heard. */
  idle?: boolean
}

export function LevelBar({ level, idle = false }: LevelBarProps) {
  const bar = useRef<HTMLDivElement>(null)
  const hold = useRef<HTMLDivElement>(null)
  const [held, setHeld] = useState({ db: Number.NEGATIVE_INFINITY, clipped: false, lufs: Number.NEGATIVE_INFINITY })
  useEffect(() => {
    let [highest, since, said] = [Number.NEGATIVE_INFINITY, 0, 0]
    return level.listen(({ peak, clipped, lufs: lastSeconds }) => {
      const db = toDb(peak)
      const now = performance.now()
      if (db > highest || now - since > HOLD_MS) [highest, since] = [db, now]
      // neither moves anything else on the page, so nothing is laid out anew
      if (bar.current) bar.current.style.clipPath = `inset(0 ${100 - share(db)}% 0 0)`
      if (hold.current) hold.current.style.transform = `translateX(${share(highest)}%)`
      if (clipped || now - said > SPOKEN_EVERY_MS) {
        said = now
        setHeld({ db: highest, clipped, lufs: lastSeconds })
      }
    })
  }, [level])
  const zone = idle ? null : zoneOf(held.db)
  const zones: [Zone, number][] = [
    ['too quiet', share(QUIET_BELOW_DB)],
    ['good', share(LOUD_ABOVE_DB) - share(QUIET_BELOW_DB)],
    ['too loud', 100 - share(LOUD_ABOVE_DB)],
  ]
  const COLOURS = { 'too quiet': 'border-edge', good: 'border-primary', 'too loud': 'border-error' }
  return (
    <div>
      <div dir="ltr" className="relative h-6 overflow-hidden rounded-sm border border-edge bg-black/40" aria-hidden="true">
        <div
          ref={bar}
          className={`drawn h-full bg-primary ${idle ? 'invisible' : ''}`}
          style={{
            clipPath: 'inset(0 100% 0 0)',
            maskImage: 'repeating-linear-gradient(90deg, #000 0 5px, transparent 5px 8px)',
          }}
        />
        <div ref={hold} className={`absolute inset-0 border-l-2 border-base-content ${idle ? 'invisible' : ''}`} />
      </div>
      <div dir="ltr" className="mt-1 flex text-sm" aria-hidden="true">
        {zones.map(([name, width]) => (
          <span
            key={name}
            className={`flex border-t-2 pt-0.5 whitespace-nowrap last:justify-end ${COLOURS[name]} ${zone === name ? 'font-semibold' : 'text-base-content/75'}`}
            style={{ width: `${width}%` }}
          >
            {say(ZONE_WORDS[name])}
          </span>
        ))}
      </div>
      {/* one line, which keeps its place whatever it says */}
      <p className={`h-5 truncate text-xs/5 ${held.clipped && !idle ? 'font-semibold text-error' : 'text-base-content/75'}`}>
        {idle
          ? say('Not listening yet.')
          : held.clipped
            ? say('Touching full scale: turn the microphone down, or move back.')
            : Number.isFinite(held.db) &&
              (held.lufs > -70
                ? say('peak {peak} · last three seconds {loudness}', { peak: decibels(held.db), loudness: lufs(held.lufs) })
                : say('peak {peak}', { peak: decibels(held.db) }))}
      </p>
      <output className="sr-only">
        {zone &&
          say(held.clipped ? 'Level {zone}, touching full scale: turn the microphone down or move back' : 'Level {zone}', {
            zone: ZONE_WORDS[zone],
          })}
      </output>
    </div>
  )
}
