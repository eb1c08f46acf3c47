import { line } from 'd3-shape'

import type { Encode, Weighing } from '@/api/client'

import type { Scales } from './chart-model'

type FrontierProps = { weighing: Weighing; drawn: Encode[]; scales: Scales }

/** The best that was reached for any bytes, in any format. */
export function Frontier({ weighing, drawn, scales: { x, y } }: FrontierProps) {
  const [low = 0] = y.domain()
  const byId = new Map(drawn.map((encode) => [encode.id, encode]))
  const best = weighing.frontier_ids
    .map((id) => byId.get(id))
    .filter((encode) => encode !== undefined && encode.likeness >= low) as Encode[]
  const through = line<Encode>(
    (encode) => x(encode.size_bytes),
    (encode) => y(encode.likeness),
  )
  return (
    <path d={through(best) ?? ''} fill="none" strokeWidth={7} className="stroke-line/60">
      <title>The best that was reached for any bytes</title>
    </path>
  )
}

type KneeProps = { weighing: Weighing; scales: Scales }

/** A ring where more bytes begin to gain little. */
export function Knee({ weighing, scales: { x, y } }: KneeProps) {
  const bend = weighing.encodes.find(({ id }) => id === weighing.knee?.encode_id)
  if (!bend) return null
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
