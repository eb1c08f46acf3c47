import { useState } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'

import { UNLESS_TYPING } from '@/ui/keys'

export type Selection = {
  ids: number[]
  has: (photoId: number) => boolean
  /** As a click on the row does it: alone, with Ctrl one more or less, with Shift up to there. */
  click: (photoId: number, keys: { ctrlKey: boolean; metaKey: boolean; shiftKey: boolean }) => void
  toggle: (photoId: number, isRange: boolean) => void
  all: () => void
  clear: () => void
}

type Chosen = { ids: ReadonlySet<number>; from: number | null }

const NONE: Chosen = { ids: new Set(), from: null }

/** The photos of a page that are selected, in their order. Ctrl A takes all, Escape none. */
export function useSelection(order: number[]): Selection {
  const [chosen, setChosen] = useState<Chosen>(NONE)
  const ids = order.filter((id) => chosen.ids.has(id))

  const upTo = (photoId: number): ReadonlySet<number> => {
    const ends = [order.indexOf(chosen.from ?? photoId), order.indexOf(photoId)]
    return new Set(order.slice(Math.min(...ends), Math.max(...ends) + 1))
  }
  const toggled = (photoId: number): ReadonlySet<number> => {
    const after = new Set(ids)
    if (!after.delete(photoId)) after.add(photoId)
    return after
  }
  const all = () => setChosen({ ids: new Set(order), from: order[0] ?? null })
  const clear = () => setChosen(NONE)
  useHotkeys('mod+a', all, { ...UNLESS_TYPING, preventDefault: true })
  useHotkeys('escape', clear, UNLESS_TYPING)

  return {
    ids,
    has: (photoId) => chosen.ids.has(photoId),
    click: (photoId, { ctrlKey, metaKey, shiftKey }) => {
      if (shiftKey) setChosen({ ids: upTo(photoId), from: chosen.from ?? photoId })
      else if (ctrlKey || metaKey) setChosen({ ids: toggled(photoId), from: photoId })
      else setChosen({ ids: new Set([photoId]), from: photoId })
    },
    toggle: (photoId, isRange) => {
      if (isRange) setChosen({ ids: new Set([...ids, ...upTo(photoId)]), from: photoId })
      else setChosen({ ids: toggled(photoId), from: photoId })
    },
    all,
    clear,
  }
}
