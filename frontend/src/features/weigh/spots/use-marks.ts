import type { Box, Weighing } from '@/api/client'
import { useSetMarks } from '@/api/queries'

import { toPicture, toPlace } from './marks'

export type MarkedAreas = {
  areas: { box: Box; matters: boolean }[]
  add: (box: Box, matters: boolean) => void
  removeAll: () => void
  problem: string | undefined
}

/** The marked areas of a photo, in its place. */
export function useMarks(weighing: Weighing): MarkedAreas {
  const set = useSetMarks(weighing.id)
  return {
    areas: weighing.marks.map((mark) => ({ box: toPlace(mark, weighing), matters: mark.matters })),
    add: (box, matters) =>
      set.mutate([...weighing.marks, { box: toPicture(box, weighing), matters }]),
    removeAll: () => set.mutate([]),
    problem: set.error?.message,
  }
}
