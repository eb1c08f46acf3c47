import { line } from 'd3-shape'

import type { Weighing } from '@/api/client'

import type { Scales } from './chart-model'

type FrontierProps = { weighing: Weighing; scales: Scales; clip: string }

/** The best that is to be had for any bytes, in any format. */
export function Frontier({ weighing, scales: { x, y }, clip }: FrontierProps) {
  const along = line<Weighing['frontier'][number]>(
    (point) => x(point.size_bytes),
    (point) => y(point.likeness),
  )
  return (
    <path
      d={along(weighing.frontier) ?? ''}
      clipPath={`url(#${clip})`}
      fill="none"
      strokeWidth={7}
      strokeLinejoin="round"
      className="stroke-line/60"
    >
      <title>The best that is to be had for any bytes</title>
    </path>
  )
}

type KneeProps = { weighing: Weighing; scales: Scales }

/** A ring where more bytes begin to gain little. */
export function Knee({ weighing, scales: { x, y } }: KneeProps) {
  const bend = weighing.encodes.find(({ id }) => id === weighing.knee_id)
  const [left = 0, right = 0] = x.range()
  if (!bend || x(bend.size_bytes) < left || x(bend.size_bytes) > right) return null
  return (
    <circle
      cx={x(bend.size_bytes)}
      cy={y(bend.likeness)}
      r={8}
      fill="none"
      strokeDasharray="2 2"
      className="stroke-ink"
    >
      <title>From here on more bytes gain little</title>
    </circle>
  )
}
