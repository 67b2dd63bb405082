/** All captions of the lecture as a reading text; attach a file, take one away, keep one as a file. */
import { CircleAlert, Download, FileUp, Play, Trash2 } from 'lucide-react'
import { useMemo, useState } from 'react'
import { useDropzone } from 'react-dropzone'
import { Link, useParams } from 'react-router'
import { cuesOnLecture } from '#core/captions/place-cues.ts'
import { publishedTracks } from '#core/captions/published-tracks.ts'
import type { CaptionTrack, Lecture } from '#core/lecture.ts'
import { api, sentenceOf, thumbnailUrl } from '#web/shared/api.ts'
import { editOrTell } from '#web/shared/edits/history.ts'
import { clock, plural } from '#web/shared/format.ts'
import { play } from '#web/shared/player/lecture-player.ts'
import { useAppDispatch } from '#web/shared/store.ts'
import { Loading } from '#web/shared/ui/loading.tsx'
import { Nowhere } from '#web/shared/ui/nowhere.tsx'
import { TopBar } from '#web/shared/ui/top-bar.tsx'
import { Transport } from '#web/shared/ui/transport.tsx'
import { useAttachCaptions } from './use-attach-captions.ts'

const languageName = (language: string) => new Intl.DisplayNames(undefined, { type: 'language' }).of(language) ?? language

function Text({ lecture, track }: { lecture: Lecture; track: CaptionTrack }) {
  const cues = useMemo(() => cuesOnLecture(lecture, track.cues), [lecture, track])
  return (
    <ol className="grid gap-8">
      {lecture.slides
        .filter((slide) => !slide.hidden)
        .map((slide) => {
          const own = cues.filter((cue) => cue.slideId === slide.id)
          const number = lecture.slides.indexOf(slide) + 1
          return (
            <li key={slide.id} className="grid grid-cols-[9rem_1fr] gap-6">
              <img
                src={thumbnailUrl(slide.steps[0]!.thumbnail)}
                alt=""
                width={144}
                height={81}
                loading="lazy"
                className="h-[81px] border border-base-300 bg-white object-contain"
              />
              <div>
                <h2 className="mb-1 font-read text-lg font-semibold">
                  {number}. {slide.title || 'Without a title'}
                </h2>
                {own.length === 0 && (
                  <p className="text-base-content/75">
                    No captions here.{' '}
                    <Link className="link" to={`/lectures/${lecture.id}/slides/${slide.id}`}>
                      {slide.script.trim() ? 'Record the slide' : 'Write its script'}
                    </Link>{' '}
                    and they make themselves.
                  </p>
                )}
                <table className="w-full">
                  <tbody>
                    {own.map((cue) => (
                      <tr key={cue.id} className="border-b border-base-300 align-top">
                        <td className="w-24 py-1 text-sm">
                          <button
                            type="button"
                            className="flex items-center gap-1.5 rounded px-1 py-0.5 text-base-content/75 hover:bg-base-200 hover:text-base-content"
                            aria-label={`Play from ${clock(cue.start)}: ${cue.text.replace('\n', ' ')}`}
                            onClick={() => play(cue.start)}
                          >
                            <Play size={12} fill="currentColor" aria-hidden /> {clock(cue.start)}
                          </button>
                        </td>
                        <td className="py-1.5 font-read whitespace-pre-line">
                          {cue.text}
                          {cue.doubtful && (
                            <span className="ml-2 inline-flex items-center gap-1 font-sans text-sm text-secondary">
                              <CircleAlert size={14} aria-hidden /> please check
                            </span>
                          )}
                        </td>
                        <td className="w-20 py-1.5 text-right text-sm text-base-content/75">
                          {(cue.end - cue.start).toFixed(1)} s
                        </td>
                      </tr>
                    ))}
                  </tbody>
                </table>
              </div>
            </li>
          )
        })}
    </ol>
  )
}

export function Captions() {
  const { id } = useParams()
  const { data: lecture, error, isLoading } = api.useLectureQuery(id!)
  const [chosen, setChosen] = useState<string | null>(null)
  const dispatch = useAppDispatch()
  const attach = useAttachCaptions(lecture)
  const zone = useDropzone({ noClick: true, noKeyboard: true, multiple: false, onDrop: ([file]) => file && void attach(file) })
  if (isLoading) return <Loading what="the captions" />
  if (!lecture) return <Nowhere sentence={sentenceOf(error)} />
  const published = publishedTracks(lecture)
  const track = lecture.captionTracks.find((t) => t.id === chosen) ?? published[0] ?? lecture.captionTracks[0]
  const remove = (trackId: string) => {
    const deletion = (deleted: boolean) => [{ kind: 'captions-deleted' as const, trackId, deleted }]
    void dispatch(
      editOrTell({ lectureId: lecture.id, label: 'removing a caption file', forth: deletion(true), back: deletion(false) }),
    )
  }
  return (
    <div {...zone.getRootProps()} className="flex min-h-dvh flex-col">
      <input {...zone.getInputProps()} aria-label="Caption file" />
      <TopBar lecture={lecture} />
      <main className="mx-auto grid w-full max-w-6xl grow grid-cols-[1fr_17rem] gap-10 px-6 py-6 max-md:grid-cols-1">
        {track ? <Text lecture={lecture} track={track} /> : <p>No captions yet.</p>}
        <aside className="text-sm">
          <h2 className="border-b border-base-300 pb-2 font-read text-lg font-semibold">Caption tracks</h2>
          <ul>
            {lecture.captionTracks.map((t) => (
              <li key={t.id} className="border-b border-base-300 py-2">
                <label className="flex items-center gap-2 font-medium">
                  <input
                    type="radio"
                    name="track"
                    className="radio radio-sm border-edge"
                    checked={t.id === track?.id}
                    onChange={() => setChosen(t.id)}
                  />
                  {t.origin === 'script' ? 'From the scripts' : t.label}
                </label>
                <p className="mt-0.5 text-base-content/75">
                  {languageName(t.language)} · {plural(t.cues.length, 'caption')} ·{' '}
                  {published.includes(t) ? 'published' : t.cues.length === 0 ? 'empty' : 'the file is published instead'}
                </p>
                <p className="mt-1 flex gap-3">
                  <a className="link flex items-center gap-1" href={`/api/lectures/${lecture.id}/captions/${t.id}.vtt`}>
                    <Download size={14} aria-hidden /> Keep as .vtt
                  </a>
                  {t.origin === 'file' && (
                    <button type="button" className="link flex items-center gap-1" onClick={() => remove(t.id)}>
                      <Trash2 size={14} aria-hidden /> Remove
                    </button>
                  )}
                </p>
              </li>
            ))}
          </ul>
          <button type="button" className="btn mt-4 w-full border-edge" onClick={zone.open}>
            <FileUp size={16} aria-hidden /> Attach a .vtt file
          </button>
          <p className="mt-2 text-base-content/75">
            Captions from the scripts follow each recording by themselves. A file for the whole lecture is divided over the slides
            by its times, and stays on its words when slides move.
          </p>
        </aside>
      </main>
      <Transport lecture={lecture} />
    </div>
  )
}
