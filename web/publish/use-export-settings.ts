/** Changes how the editions of a lecture are made, so that it can be undone. */
import type { ExportSettings } from '#core/model/export-settings.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { editOrTell } from '#web/data/history.ts'
import { useAppDispatch } from '#web/data/store.ts'

export function useExportSettings(lecture: Lecture): (change: Partial<ExportSettings>, label: string) => void {
  const dispatch = useAppDispatch()
  return (change, label) =>
    void dispatch(
      editOrTell({
        lectureId: lecture.id,
        label,
        forth: [{ kind: 'lecture', change: { exportSettings: { ...lecture.exportSettings, ...change } } }],
        back: [{ kind: 'lecture', change: { exportSettings: lecture.exportSettings } }],
      }),
    )
}
