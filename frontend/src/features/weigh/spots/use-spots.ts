import { useState } from 'react'

import type { Damage, Encode, Spot, Weighing } from '@/api/client'
import { useDamage } from '@/api/queries'

import type { StageView } from '../stage/use-view'

type Spots = {
  damage: Damage | undefined
  problem: string | undefined
  number: number | null
  chosen: Spot | undefined
  choose: (number: number) => void
}

/** The trouble spots of an encode, and the one that is looked at; choosing takes the stage there. */
export function useSpots(weighing: Weighing, encode: Encode | undefined, view: StageView): Spots {
  const { data: damage, error } = useDamage(weighing.id, encode, weighing.marks)
  const encodeId = encode?.id
  const [at, setAt] = useState<{ encodeId: number | undefined; number: number } | null>(null)
  const number = at && at.encodeId === encodeId ? at.number : null
  const spots = damage?.spots ?? []
  return {
    damage,
    problem: error?.message,
    number,
    chosen: number === null ? undefined : spots[number],
    choose: (to) => {
      const spot = spots[to]
      if (!spot) return
      setAt({ encodeId, number: to })
      view.goTo(spot.box)
    },
  }
}
