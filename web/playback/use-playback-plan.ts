/** Gives the player the lecture as it is now. */
import { useEffect, useMemo } from 'react'
import type { LectureCue } from '#core/captions/tracks/place-cues.ts'
import { publishedCues, publishedTracks } from '#core/captions/tracks/published-tracks.ts'
import { type EditionPlan, placedBeds, plan } from '#core/edition/plan.ts'
import type { CaptionTrack } from '#core/model/caption.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { schedule } from '#core/timing/schedule.ts'
import { player } from './player.ts'

export interface PlaybackPlan {
  /** Null while no slide would be shown. */
  plan: EditionPlan | null
  cues: LectureCue[]
}

/** @param captionsOf whose captions are shown; those that are published first when absent */
export function usePlaybackPlan(lecture: Lecture, captionsOf?: CaptionTrack): PlaybackPlan {
  const score = useMemo(() => {
    const shown = lecture.slides.some((slide) => !slide.hidden && slide.steps.length > 0)
    const track = captionsOf ?? publishedTracks(lecture)[0]
    return { plan: shown ? plan(lecture) : null, cues: track ? publishedCues(lecture, track) : [] }
  }, [lecture, captionsOf])
  useEffect(() => {
    player.load(score.plan, score.plan ? placedBeds(lecture, schedule(lecture)) : [])
  }, [score, lecture])
  useEffect(() => () => player.unload(), [])
  return score
}
