/** A new version of the deck: what changed, what is new and what is gone, to be decided on. The voice stays. */

import { useState } from 'react'
import { toast } from 'sonner'
import type { FoundReplacement } from '#core/deck/match/replace.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { say } from '#core/words/say.ts'
import { Dialog, DialogButtons } from '#web/components/overlay/dialog.tsx'
import { sentenceOf, thumbnailUrl } from '#web/data/api.ts'
import { sheetApi } from '#web/data/endpoints/sheet.ts'
import { editOrTell } from '#web/data/history.ts'
import { useAppDispatch } from '#web/data/store.ts'
import { replaceCommands } from './replace-commands.ts'

interface ReplaceDeckProps {
  lecture: Lecture
  id: string
  replaced: FoundReplacement
  /** Slides whose pictures are wanted, and nothing else of the deck; null for all of it. */
  only: readonly string[] | null
  onClose: () => void
}

function Row({
  checked,
  onChange,
  label,
  pictures,
}: {
  checked: boolean
  onChange: (on: boolean) => void
  label: string
  pictures: string[]
}) {
  return (
    <li>
      <label className="flex items-center gap-3 border-t border-base-300 py-1.5">
        <input
          type="checkbox"
          className="checkbox checkbox-sm border-edge"
          checked={checked}
          onChange={({ target }) => onChange(target.checked)}
        />
        {pictures.map((name, i) => (
          <img
            key={`${i} ${name}`}
            src={thumbnailUrl(name)}
            alt=""
            width={208}
            height={117}
            className="h-[117px] w-52 border border-base-300 bg-white object-contain"
          />
        ))}
        <span className="text-sm">{label}</span>
      </label>
    </li>
  )
}

/** What a page shows in the end. */
const lastOf = ({ thumbnail, steps = [] }: FoundReplacement['pages'][number]) => steps.at(-1)?.thumbnail ?? thumbnail

const without = <T,>(set: ReadonlySet<T>, value: T, on: boolean) =>
  new Set(on ? [...set, value] : [...set].filter((v) => v !== value))

/** What came of it, told once. */
const tookOver = (counts: { pictures: number; slides: number; removed: number }, reordered: boolean) =>
  [
    say(
      '{pictures, plural, one {# picture} other {# pictures}} replaced, {slides, plural, one {# slide} other {# slides}} added, {removed} taken out.',
      counts,
    ),
    ...(reordered ? [say('The order was taken over.')] : []),
    say('Sound, scripts and captions are as they were.'),
  ].join(' ')

/** Pages that take the place of drawings: what the file says of titles and order is not asked. */
const picturesOnly = (found: FoundReplacement): FoundReplacement => ({
  ...found,
  changed: found.changed.flatMap((one) => (one.hasNewPicture ? [{ ...one, newTitle: null }] : [])),
  added: [],
  removed: [],
  order: null,
})

export function ReplaceDeck({ lecture, id, replaced: found, only, onClose }: ReplaceDeckProps) {
  const replaced = only ? picturesOnly(found) : found
  const dispatch = useAppDispatch()
  const [takeOver, { isLoading }] = sheetApi.useTakeOverMutation()
  const [changed, setChanged] = useState<ReadonlySet<string>>(
    () => new Set(replaced.changed.map((c) => c.slideId).filter((slideId) => !only || only.includes(slideId))),
  )
  const [added, setAdded] = useState<ReadonlySet<number>>(() => new Set(replaced.added.map((a) => a.page)))
  const [removed, setRemoved] = useState<ReadonlySet<string>>(() => new Set<string>())
  const slideOf = (id: string) => lecture.slides.find((slide) => slide.id === id)
  const named = (id: string) =>
    `${lecture.slides.findIndex((s) => s.id === id) + 1}. ${slideOf(id)?.title || say('Without a title')}`
  const [reordered, setReordered] = useState(replaced.order !== null)
  const nothing = replaced.order === null && replaced.changed.length + replaced.added.length + replaced.removed.length === 0
  const titleOf = ({ slideId, newTitle: title }: FoundReplacement['changed'][number]) =>
    title === null ? named(slideId) : say('{slide}, now “{title}”', { slide: named(slideId), title })

  const perform = async () => {
    try {
      const made = await takeOver({ id, changed: [...changed], added: [...added] }).unwrap()
      const wanted = { changed, added, removed, reordered }
      const commands = replaceCommands(lecture, replaced, wanted, made)
      await dispatch(editOrTell({ lectureId: lecture.id, label: say('the new deck'), ...commands }))
      toast.success(tookOver({ pictures: made.steps.length, slides: made.slideIds.length, removed: removed.size }, reordered))
      onClose()
    } catch (error) {
      toast.error(sentenceOf(error))
    }
  }

  return (
    <Dialog
      title={say('The new deck beside this lecture')}
      width="max-w-3xl"
      layout="grid gap-3"
      onClose={onClose}
      onSubmit={() => void perform()}
    >
      {nothing && <p>{say('Every page is as it was. There is nothing to take over.')}</p>}
      {replaced.changed.length > 0 && (
        <section aria-label={say('Changed slides')}>
          <h3 className="font-medium">{say('These look different: before and now')}</h3>
          <ul>
            {replaced.changed.map((one) => {
              const { slideId, page } = one
              return (
                <Row
                  key={slideId}
                  checked={changed.has(slideId)}
                  onChange={(on) => setChanged(without(changed, slideId, on))}
                  label={titleOf(one)}
                  pictures={[slideOf(slideId)?.steps.at(-1)?.thumbnail ?? '', lastOf(replaced.pages[page]!)].filter(Boolean)}
                />
              )
            })}
          </ul>
        </section>
      )}
      {replaced.added.length > 0 && (
        <section aria-label={say('New slides')}>
          <h3 className="font-medium">{say('These are new')}</h3>
          <ul>
            {replaced.added.map(({ page, afterSlideId }) => (
              <Row
                key={page}
                checked={added.has(page)}
                onChange={(on) => setAdded(without(added, page, on))}
                label={
                  afterSlideId
                    ? say('{title}, after {slide}', {
                        title: replaced.pages[page]!.title || say('Without a title'),
                        slide: named(afterSlideId),
                      })
                    : say('{title}, at the beginning', { title: replaced.pages[page]!.title || say('Without a title') })
                }
                pictures={[lastOf(replaced.pages[page]!)]}
              />
            ))}
          </ul>
        </section>
      )}
      {replaced.removed.length > 0 && (
        <section aria-label={say('Slides that are gone')}>
          <h3 className="font-medium">{say('These are not in the new deck: tick those to take out')}</h3>
          <ul>
            {replaced.removed.map((slideId) => (
              <Row
                key={slideId}
                checked={removed.has(slideId)}
                onChange={(on) => setRemoved(without(removed, slideId, on))}
                label={named(slideId)}
                pictures={[slideOf(slideId)?.steps.at(-1)?.thumbnail ?? ''].filter(Boolean)}
              />
            ))}
          </ul>
        </section>
      )}
      {replaced.order !== null && (
        <label className="flex items-center gap-3 border-t border-base-300 py-2">
          <input
            type="checkbox"
            className="checkbox checkbox-sm border-edge"
            checked={reordered}
            onChange={({ target }) => setReordered(target.checked)}
          />
          {say('Put the slides in the order of the new deck')}
        </label>
      )}
      <DialogButtons
        keep={say('Take it over')}
        disabled={isLoading || nothing || (changed.size + added.size + removed.size === 0 && !reordered)}
        onLeave={onClose}
      />
    </Dialog>
  )
}
