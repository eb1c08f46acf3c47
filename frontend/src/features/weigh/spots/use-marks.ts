import type { Box, Weighing } from '@/api/client'
import { useSetMarks } from '@/api/queries'
import { useDraft } from '@/ui/fields/use-draft'

import { toPicture, toPlace } from './marks'

export type MarkedAreas = {
  areas: { box: Box; matters: boolean }[]
  add: (box: Box, matters: boolean) => void
  removeAll: () => void
}

/** The marked areas of a photo, in its place. */
export function useMarks(weighing: Weighing): MarkedAreas {
  const set = useSetMarks(weighing.id)
  const marks = useDraft(weighing.marks, set.mutateAsync)
  return {
    areas: marks.value.map((mark) => ({ box: toPlace(mark, weighing), matters: mark.matters })),
    add: (box, matters) => marks.send([...marks.value, { box: toPicture(box, weighing), matters }]),
    removeAll: () => marks.send([]),
  }
}
