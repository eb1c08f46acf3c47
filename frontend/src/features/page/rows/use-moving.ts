import {
  closestCenter,
  type CollisionDetection,
  type DndContextProps,
  type DragEndEvent,
  KeyboardSensor,
  PointerSensor,
  pointerWithin,
  useSensor,
  useSensors,
} from '@dnd-kit/core'
import { arrayMove, sortableKeyboardCoordinates } from '@dnd-kit/sortable'
import { useState } from 'react'

import { api, type Page } from '@/api/client'
import { useAct } from '@/api/queries'
import { dropId } from '@/shell/rails/drop-id'

function idOf(id: string | number, kind: keyof typeof dropId): number | null {
  const [word, number] = String(id).split('-')
  return word === kind ? Number(number) : null
}

/** A page takes a photo only where the pointer is over it; among photos the nearest counts. */
const collisions: CollisionDetection = (args) => {
  const under = pointerWithin(args).filter(({ id }) => idOf(id, 'page') !== null)
  if (under.length > 0) return under
  const photos = args.droppableContainers.filter(({ id }) => idOf(id, 'photo') !== null)
  return closestCenter({ ...args, droppableContainers: photos })
}

/** Photos reordered, or moved to another page, by mouse or keyboard. */
export function useMoving(page: Page | undefined) {
  const act = useAct()
  const [dropped, setDropped] = useState<number[] | null>(null)
  const kept = page?.photos.map((photo) => photo.id) ?? []
  const order = dropped ?? kept
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  )

  const onDragEnd = ({ active, over }: DragEndEvent) => {
    const photoId = idOf(active.id, 'photo')
    if (!page || !over || photoId === null || over.id === active.id) return
    const pageId = idOf(over.id, 'page')
    if (pageId === page.id) return
    const position = pageId === null ? order.indexOf(idOf(over.id, 'photo') ?? 0) : order.length
    const mine =
      pageId === null
        ? arrayMove(order, order.indexOf(photoId), position)
        : order.filter((id) => id !== photoId)
    setDropped(mine)
    // What was dropped after it stays until that is kept too.
    const settle = () => setDropped((now) => (now === mine ? null : now))
    const to = { page_id: pageId ?? page.id, position: pageId ? LAST : position }
    act.mutateAsync(() => api.changePhoto(photoId, to)).then(settle, settle)
  }
  const context: DndContextProps = { sensors, onDragEnd, collisionDetection: collisions }
  return { context, order }
}

/** Past the end is the end. */
export const LAST = 100_000
