import { api, type Box, type Weighing } from '@/api/client'
import { usePhotoAct } from '@/api/queries'
import { useDraft } from '@/ui/fields/use-draft'

import { toPicture, toPlace } from './marks'

export type MarkedAreas = {
  areas: { box: Box; matters: boolean }[]
  add: (box: Box, matters: boolean) => void
  removeAll: () => void
}

/** The marked areas of a photo, in its place. */
export function useMarks(weighing: Weighing): MarkedAreas {
  const act = usePhotoAct(weighing.id)
  const marks = useDraft(weighing.marks, (marks) =>
    act.mutateAsync(() => api.setMarks(weighing.id, marks)),
  )
  return {
    areas: marks.value.map((mark) => ({ box: toPlace(mark, weighing), matters: mark.matters })),
    add: (box, matters) => marks.send([...marks.value, { box: toPicture(box, weighing), matters }]),
    removeAll: () => marks.send([]),
  }
}
