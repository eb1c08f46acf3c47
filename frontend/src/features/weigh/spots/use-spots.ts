import { useState } from 'react'

import type { Bought, Box, Encode, Spot, Weighing } from '@/api/client'
import { useDamage } from '@/api/queries'

import type { StageView } from '../stage/use-view'

/** A trouble spot, or one that more bytes take away, with what is to be said of it. */
export type ShownSpot = {
  kind: Spot['kind']
  name: string
  words: string
  box: Box
  isMarked: boolean
}

type Spots = {
  all: ShownSpot[]
  verdict: string | undefined
  problem: string | undefined
  number: number | null
  chosen: ShownSpot | undefined
  choose: (number: number) => void
}

/**
 * The trouble spots of an encode, or what is bought where two are compared, and the one that is
 * looked at; choosing takes the stage there.
 */
export function useSpots(
  weighing: Weighing,
  encode: Encode | undefined,
  view: StageView,
  bought: Bought | undefined,
): Spots {
  const { data: damage, error } = useDamage(weighing.id, encode, weighing.marks)
  const of = `${encode?.id} ${bought?.lighter_id} ${bought?.heavier_id}`
  const [at, setAt] = useState<{ of: string; number: number } | null>(null)
  const number = at && at.of === of ? at.number : null
  const all = bought ? boughtSpots(bought) : (damage?.spots ?? []).map(shownSpot)
  return {
    all,
    verdict: bought?.sentence ?? damage?.verdict,
    problem: error?.message,
    number,
    chosen: number === null ? undefined : all[number],
    choose: (to) => {
      const spot = all[to]
      if (!spot) return
      setAt({ of, number: to })
      view.goTo(spot.box)
    },
  }
}

const shownSpot = ({ kind, name, level, box, is_marked }: Spot): ShownSpot => ({
  kind,
  name,
  words: level ?? 'nothing seen',
  box,
  isMarked: is_marked,
})

/** From the lighter to the heavier. */
const boughtSpots = ({ gains, losses }: Bought): ShownSpot[] => [
  ...gains.map(({ before, after, ...area }) => ({
    ...area,
    words: `${before} to ${after}`,
    isMarked: false,
  })),
  ...losses.map(({ before, after, ...area }) => ({
    ...area,
    words: `${after} to ${before}`,
    isMarked: false,
  })),
]
