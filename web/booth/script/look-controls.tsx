/** How large, how wide, in which letters and which way round a script is shown. */

import { FlipHorizontal2 } from 'lucide-react'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { resized, type ScriptLook, WIDTHS } from './script-look.ts'

interface LookControlsProps {
  look: ScriptLook
  onLook: (change: Partial<ScriptLook>) => void
  /** In a window of its own, which may stand behind a glass. */
  inWindow: boolean
}

export function LookControls({ look, onLook, inWindow }: LookControlsProps) {
  const narrower = WIDTHS.findLast((width) => width < look.width) ?? WIDTHS.at(-1)!
  return (
    <>
      <Button size="xs" aria-label={say('Smaller script')} onClick={() => onLook({ size: resized(look.size, -1) })}>
        A−
      </Button>
      <Button size="xs" aria-label={say('Larger script')} onClick={() => onLook({ size: resized(look.size, 1) })}>
        A+
      </Button>
      <Button
        size="xs"
        aria-label={say('Width of the lines: {percent} %. Press for narrower, or wide again', {
          percent: Math.round(100 * look.width),
        })}
        onClick={() => onLook({ width: narrower })}
      >
        ↔ {Math.round(100 * look.width)} %
      </Button>
      {inWindow && (
        <>
          <Button size="xs" onClick={() => onLook({ font: look.font === 'reading' ? 'plain' : 'reading' })}>
            {look.font === 'reading' ? say('Plain letters') : say('Reading letters')}
          </Button>
          <Button
            size="xs"
            kind={look.isMirrored ? 'neutral' : 'plain'}
            aria-pressed={look.isMirrored}
            onClick={() => onLook({ isMirrored: !look.isMirrored })}
          >
            <FlipHorizontal2 size={13} aria-hidden /> {say('Mirror')}
          </Button>
        </>
      )}
    </>
  )
}
