/** The rows of the sheet. Only those near the window are there; a lecture may have hundreds. */

import {
  type Announcements,
  closestCenter,
  DndContext,
  type DragEndEvent,
  KeyboardSensor,
  PointerSensor,
  type ScreenReaderInstructions,
  useSensor,
  useSensors,
} from '@dnd-kit/core'
import { arrayMove, SortableContext, sortableKeyboardCoordinates, verticalListSortingStrategy } from '@dnd-kit/sortable'
import { defaultRangeExtractor, useWindowVirtualizer } from '@tanstack/react-virtual'
import { type Ref, useEffect, useImperativeHandle, useMemo, useRef, useState } from 'react'
import { useParams } from 'react-router'
import type { Lecture } from '#core/model/lecture.ts'
import { say } from '#core/words/say.ts'
import { editOrTell } from '#web/data/history.ts'
import { useAppDispatch } from '#web/data/store.ts'
import { useFix } from '#web/data/use-fix.ts'
import { usePlayer } from '#web/playback/player.ts'
import { prepareBench, Row } from './row.tsx'
import type { Scale } from './scale.tsx'
import type { RowData } from './use-sheet.ts'

const CLOSED_ROW_PX = 125
const RULER_PX = 26

type Id = string | number

/**
 * What is said to those who move rows without seeing them: numbers of slides, as they stand on the sheet.
 *
 * @param ids of the slides, in their order
 */
function rowAnnouncements(ids: readonly Id[]): Announcements {
  const number = (id: Id) => ids.indexOf(id) + 1
  return {
    onDragStart: ({ active }) => say('Slide {number} is taken up.', { number: number(active.id) }),
    onDragOver: ({ active, over }) =>
      over
        ? say('Slide {number} is at place {place} of {places}.', {
            number: number(active.id),
            place: number(over.id),
            places: ids.length,
          })
        : undefined,
    onDragEnd: ({ active, over }) =>
      over && over.id !== active.id
        ? say('Slide {number} was put down at place {place}.', { number: number(active.id), place: number(over.id) })
        : say('Slide {number} stays where it was.', { number: number(active.id) }),
    onDragCancel: ({ active }) => say('Slide {number} stays where it was.', { number: number(active.id) }),
  }
}

const rowInstructions = (): ScreenReaderInstructions => ({
  draggable: say('Space takes the slide up, arrow keys move it, Space puts it down, Esc leaves it where it was.'),
})

export interface RowsHandle {
  scrollTo(slideId: string): void
}

interface RowsProps {
  lecture: Lecture
  rows: RowData[]
  scale: Scale
  mayChange: boolean
  /** False while only some rows are shown: their order is not the lecture's. */
  sortable: boolean
  handle: Ref<RowsHandle>
}

export function Rows({ lecture, rows, scale, mayChange, sortable, handle }: RowsProps) {
  const dispatch = useAppDispatch()
  const { slideId: openSlide } = useParams()
  const { slideId: playedSlide } = usePlayer()
  const fix = useFix(lecture)
  const list = useRef<HTMLOListElement>(null)
  const [dragged, setDragged] = useState<string | null>(null)
  const [top, setTop] = useState(0)
  useEffect(prepareBench, [])
  useEffect(() => {
    // what stands above the rows may grow and shrink
    const observer = new ResizeObserver(() => setTop(list.current?.offsetTop ?? 0))
    observer.observe(document.body)
    return () => observer.disconnect()
  }, [])
  const draggedIndex = rows.findIndex((row) => row.slide.id === dragged)
  const virtual = useWindowVirtualizer({
    count: rows.length,
    estimateSize: () => CLOSED_ROW_PX,
    overscan: 5,
    // drawn with the next frame, not in the middle of the scrolling one
    useFlushSync: false,
    scrollMargin: top,
    scrollPaddingStart: RULER_PX,
    getItemKey: (i) => rows[i]!.slide.id,
    // the row that is being dragged must not vanish when it is carried far
    rangeExtractor: (range) => {
      const shown = defaultRangeExtractor(range)
      return draggedIndex >= 0 && !shown.includes(draggedIndex) ? [...shown, draggedIndex].sort((a, b) => a - b) : shown
    },
  })
  useImperativeHandle(handle, () => ({
    scrollTo(slideId) {
      const index = rows.findIndex((row) => row.slide.id === slideId)
      if (index >= 0) virtual.scrollToIndex(index, { align: 'start' })
    },
  }))
  const scrolledTo = useRef<string | null>(null)
  useEffect(() => {
    // an address of an opened row far down goes there
    if (!openSlide || scrolledTo.current === openSlide || top === 0) return
    scrolledTo.current = openSlide
    const index = rows.findIndex((row) => row.slide.id === openSlide)
    const shown = virtual.getVirtualItems().some((item) => item.index === index)
    if (index >= 0 && !shown) virtual.scrollToIndex(index, { align: 'start' })
  }, [openSlide, rows, virtual, top])

  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 6 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  )
  const ids = useMemo(() => rows.map((row) => row.slide.id), [rows])
  const accessibility = useMemo(
    () => ({ announcements: rowAnnouncements(ids), screenReaderInstructions: rowInstructions() }),
    [ids],
  )
  const order = lecture.slides.map((slide) => slide.id)
  const drop = ({ active, over }: DragEndEvent) => {
    setDragged(null)
    if (!over || active.id === over.id) return
    const next = arrayMove(order, order.indexOf(String(active.id)), order.indexOf(String(over.id)))
    void dispatch(
      editOrTell({
        lectureId: lecture.id,
        label: say('order of the slides'),
        forth: [{ kind: 'order', order: next }],
        back: [{ kind: 'order', order }],
      }),
    )
  }
  return (
    <DndContext
      sensors={sensors}
      accessibility={accessibility}
      collisionDetection={closestCenter}
      onDragStart={({ active }) => setDragged(String(active.id))}
      onDragCancel={() => setDragged(null)}
      onDragEnd={drop}
    >
      <SortableContext items={ids} strategy={verticalListSortingStrategy} disabled={!sortable}>
        <ol ref={list} aria-label={say('Slides')} className="relative grow" style={{ minHeight: virtual.getTotalSize() }}>
          {virtual.getVirtualItems().map((item) => {
            const row = rows[item.index]!
            return (
              <Row
                key={item.key}
                measure={virtual.measureElement}
                at={item.index}
                top={item.start - top}
                lecture={lecture}
                row={row}
                scale={scale}
                mayChange={mayChange}
                open={row.slide.id === openSlide}
                played={row.slide.id === playedSlide}
                onFix={fix}
              />
            )
          })}
        </ol>
      </SortableContext>
    </DndContext>
  )
}
