/** Where the chart draws what: scales, ticks and labels. */
import { scaleLinear, scaleLog } from 'd3-scale'

import type { Encode, Weighing } from '@/api/client'

/** How far below the weakest candidate the axis goes, and at most below the best one. */
const ROOM_BELOW = 8
const MOST_BELOW_BEST = 45
/** By which factor the axis of bytes goes on to either side of what is decided. */
const BESIDE = 1.9
const X_STEPS = [1, 1.2, 1.5, 2, 2.5, 3, 4, 5, 6, 8]

export type Plot = {
  width: number
  height: number
  left: number
  right: number
  top: number
  bottom: number
}
export type Scales = ReturnType<typeof scalesFor>

/** Scales that give what is decided the middle: the limit, the candidates, and what is looked at. */
export function scalesFor(weighing: Weighing, looked: readonly Encode[], plot: Plot) {
  const { encodes, candidate_ids, picked_ids, aim } = weighing
  const candidates = encodes.filter(({ id }) => candidate_ids.includes(id))
  const decided = [...candidates, ...looked, ...encodes.filter(({ id }) => picked_ids.includes(id))]
  const sizes = decided.map((encode) => encode.size_bytes)
  if (aim.limit_bytes !== null) sizes.push(aim.limit_bytes)
  if (candidates.length === 0) sizes.push(...encodes.map((encode) => encode.size_bytes))
  const likenesses = candidates.map((encode) => encode.likeness)
  const weakest = Math.min(78, ...likenesses) - ROOM_BELOW
  const floor = Math.max(weakest, Math.max(...likenesses) - MOST_BELOW_BEST)
  const lowest = Math.floor(floor / 10) * 10
  return {
    x: scaleLog()
      .domain([Math.min(...sizes) / BESIDE, Math.max(...sizes) * BESIDE])
      .range([plot.left, plot.width - plot.right]),
    y: scaleLinear()
      .domain([lowest, 100])
      .range([plot.height - plot.bottom, plot.top]),
  }
}

/** Sizes to write under the axis: round ones, not too close. */
export function xTicks(domain: readonly number[], x: (bytes: number) => number, gap: number) {
  const [low = 1, high = 1] = domain
  const ticks: number[] = []
  for (let power = Math.floor(Math.log10(low)); power <= Math.log10(high); power++) {
    for (const step of X_STEPS) {
      const bytes = step * 10 ** power
      const last = ticks.at(-1)
      if (bytes < low || bytes > high || !Number.isInteger(bytes)) continue
      if (last === undefined || x(bytes) - x(last) >= gap) ticks.push(bytes)
    }
  }
  return ticks
}

/** Heights for labels that stand beside each other, moved down where they would touch. */
export function spread(heights: readonly number[], gap: number): number[] {
  const placed: number[] = []
  const order = heights
    .map((_, index) => index)
    .sort((a, b) => (heights[a] ?? 0) - (heights[b] ?? 0))
  let lowest = -Infinity
  for (const index of order) {
    lowest = Math.max(heights[index] ?? 0, lowest + gap)
    placed[index] = lowest
  }
  return placed
}
