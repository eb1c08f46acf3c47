import { curveMonotoneX, line } from 'd3-shape'

import type { Encode, Format, Weighing } from '@/api/client'
import { FORMAT_FILLS, FORMAT_STROKES } from '@/ui/format-mark'

import { type Scales, spread } from './chart-model'

const LABEL_GAP_PX = 12

type Props = { weighing: Weighing; drawn: Encode[]; scales: Scales }

/** A curve for each format along the best that it gave, with its name at the end. */
export function Edges({ weighing, drawn, scales }: Props) {
  const byId = new Map(drawn.map((encode) => [encode.id, encode]))
  const edges = weighing.edges
    .map(({ encode_ids, ...edge }) => ({
      ...edge,
      points: encode_ids.map((id) => byId.get(id)).filter((encode) => encode !== undefined),
    }))
    .filter(({ points }) => points.length > 0)
  const labelYs = spread(
    edges.map(({ points }) => scales.y(points.at(-1)?.likeness ?? 0)),
    LABEL_GAP_PX,
  )
  return edges.map(({ format, name, points }, index) => (
    <Edge
      key={format}
      {...{ format, name, points, scales }}
      worst={worstOf(weighing, format)}
      labelY={labelYs[index] ?? 0}
    />
  ))
}

/** The kind of damage that is worst in the candidate of a format. */
function worstOf({ candidate_ids, encodes }: Weighing, format: Format): string | null {
  const candidate = encodes.find(
    ({ id, settings }) => candidate_ids.includes(id) && settings.format === format,
  )
  return candidate?.worst?.kind ? candidate.worst.name : null
}

type EdgeProps = {
  worst: string | null
  format: Format
  name: string
  points: Encode[]
  scales: Scales
  labelY: number
}

function Edge({ format, name, worst, points, scales: { x, y }, labelY }: EdgeProps) {
  const curve = line<Encode>(
    (point) => x(point.size_bytes),
    (point) => y(point.likeness),
  ).curve(curveMonotoneX)
  const last = points.at(-1)
  if (!last) return null
  return (
    <g className="pointer-events-none">
      <path
        d={curve(points) ?? ''}
        fill="none"
        strokeWidth={1.75}
        className={FORMAT_STROKES[format]}
      />
      <text
        x={x(last.size_bytes) + 9}
        y={labelY + 4}
        className={`${FORMAT_FILLS[format]} font-semibold`}
      >
        {name}
        {worst && <tspan className="fill-soft font-normal">, {worst}</tspan>}
      </text>
    </g>
  )
}
