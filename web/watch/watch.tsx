/** What learners get: the video, its chapters as slide pictures, captions, and a transcript that follows. */
import { useEffect, useRef, useState } from 'react'
import { useParams } from 'react-router'
import { Mark } from '#web/shared/ui/mark.tsx'
import { Chapters } from './chapters.tsx'
import { Controls } from './controls.tsx'
import { fetchEdition, type WatchedEdition } from './edition.ts'
import { Transcript } from './transcript.tsx'
import { useCues } from './use-cues.ts'

function Player({ token, edition }: { token: string; edition: WatchedEdition }) {
  const video = useRef<HTMLVideoElement>(null)
  const frame = useRef<HTMLDivElement>(null)
  const [moment, setMoment] = useState(0)
  const [language, setLanguage] = useState<string | null>(edition.captions[0]?.language ?? null)
  const file = (name: string) => `/watch/${token}/files/${edition.id}/${name}`
  const shown = edition.captions.find((track) => track.language === language)
  const spoken = shown ?? edition.captions[0]
  const cues = useCues(spoken ? file(spoken.file) : null)
  const cue = shown ? cues.filter((c) => moment >= c.start && moment < c.end) : []
  const seek = (seconds: number) => {
    if (video.current) video.current.currentTime = seconds
    setMoment(seconds)
  }
  // the picture's clock, as often as the screen is drawn, while the page is seen
  useEffect(() => {
    let waiting = requestAnimationFrame(function look() {
      if (video.current) setMoment(video.current.currentTime)
      waiting = requestAnimationFrame(look)
    })
    return () => cancelAnimationFrame(waiting)
  }, [])
  return (
    <div className="grid grid-cols-[2fr_minmax(18rem,1fr)] max-lg:grid-cols-1">
      <main className="min-w-0 p-5">
        <h1 className="mb-3 font-read text-2xl font-semibold">{edition.title}</h1>
        <div ref={frame} className="relative bg-black">
          {/* biome-ignore lint/a11y/useMediaCaption: captions are drawn below from the same file, so that they can be sized and followed */}
          <video
            ref={video}
            src={file('video.mp4')}
            preload="auto"
            playsInline
            className="aspect-video w-full"
            onClick={() => (video.current?.paused ? void video.current.play() : video.current?.pause())}
          />
          {cue.length > 0 && (
            <div
              lang={shown?.language}
              dir="auto"
              data-testid="caption"
              className="pointer-events-none absolute inset-x-0 bottom-[5%] text-center"
            >
              <span className="inline-block rounded bg-[#1d2a2eec] px-4 py-1.5 font-read text-[clamp(0.9rem,1.9vw,1.6rem)] leading-snug whitespace-pre-line text-[#f8f5ee]">
                {cue.map((c) => c.text).join('\n')}
              </span>
            </div>
          )}
        </div>
        <Controls
          video={video}
          frame={frame}
          edition={edition}
          moment={moment}
          onSeek={seek}
          language={language}
          onLanguage={setLanguage}
        />
        <Chapters edition={edition} moment={moment} pictureOf={file} onSeek={seek} />
      </main>
      <aside className="border-l border-base-300 p-5 max-lg:border-l-0 max-lg:border-t">
        <Transcript edition={edition} language={spoken?.language} cues={cues} moment={moment} onSeek={seek} />
        <p className="mt-6 flex flex-wrap gap-x-3 text-sm text-base-content/75">
          Download:
          <a className="link" href={`${file('video.mp4')}?download`}>
            video
          </a>
          {edition.captions.map((track) => (
            <a key={track.language} className="link" href={`${file(track.file)}?download`}>
              captions, {track.label}
            </a>
          ))}
        </p>
      </aside>
    </div>
  )
}

export function Watch() {
  const { token } = useParams()
  const [edition, setEdition] = useState<WatchedEdition | { problem: string } | null>(null)
  useEffect(() => {
    void fetchEdition(token!).then(setEdition)
  }, [token])
  useEffect(() => {
    if (edition && 'title' in edition) document.title = edition.title
  }, [edition])
  if (!edition) return <p className="p-10">Opening</p>
  if ('problem' in edition) {
    return (
      <main className="mx-auto grid max-w-lg justify-items-center gap-4 p-16 text-center">
        <Mark />
        <h1 className="font-read text-2xl">{edition.problem}</h1>
      </main>
    )
  }
  return <Player token={token!} edition={edition} />
}
