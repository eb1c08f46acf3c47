import { curveMonotoneX, line } from 'd3-shape'

import type { Encode, Format, Weighing } from '@/api/client'
import { FORMAT_FILLS, FORMAT_STROKES } from '@/ui/format-mark'

import { type Scales, spread } from './chart-model'

const LABEL_GAP_PX = 12

type Props = { weighing: Weighing; scales: Scales; clip: string }

/** A curve for each format along the best that it gave, with its name in the margin, as high as it
 * ends or leaves. */
export function Edges({ weighing, scales, clip }: Props) {
  const byId = new Map(weighing.encodes.map((encode) => [encode.id, encode]))
  const edges = weighing.edges
    .map(({ encode_ids, ...edge }) => {
      const points = encode_ids.map((id) => byId.get(id)).filter((encode) => encode !== undefined)
      return { ...edge, points, endY: endInSight(points, scales) }
    })
    .filter(({ endY }) => endY !== null)
  const labelYs = spread(
    edges.map(({ endY }) => endY ?? 0),
    LABEL_GAP_PX,
  )
  return edges.map(({ format, name, points }, index) => (
    <Edge key={format} {...{ format, name, points, scales, clip }} labelY={labelYs[index] ?? 0} />
  ))
}

/** How high a curve ends or leaves the chart at its right; null where it is nowhere in sight. */
function endInSight(points: readonly Encode[], { x, y }: Scales): number | null {
  const [low = 0, high = 0] = x.domain()
  const last = points.findLast(({ size_bytes }) => size_bytes <= high)
  const beyond = points.find(({ size_bytes }) => size_bytes > high)
  if (!last || (!beyond && last.size_bytes < low)) return null
  const below = (likeness: number) => Math.min(y(likeness), y.range()[0] ?? 0)
  if (!beyond) return below(last.likeness)
  const share = Math.log(high / last.size_bytes) / Math.log(beyond.size_bytes / last.size_bytes)
  return below(last.likeness + share * (beyond.likeness - last.likeness))
}

type EdgeProps = {
  format: Format
  name: string
  points: Encode[]
  scales: Scales
  clip: string
  labelY: number
}

function Edge(props: EdgeProps) {
  const { format, name, points, clip, labelY } = props
  const { x, y } = props.scales
  const curve = line<Encode>(
    (point) => x(point.size_bytes),
    (point) => y(point.likeness),
  ).curve(curveMonotoneX)
  return (
    <g className="pointer-events-none">
      <path
        d={curve(points) ?? ''}
        clipPath={`url(#${clip})`}
        fill="none"
        strokeWidth={1.75}
        className={FORMAT_STROKES[format]}
      />
      <text
        x={(x.range()[1] ?? 0) + 9}
        y={labelY + 4}
        className={`${FORMAT_FILLS[format]} font-semibold`}
      >
        {name}
      </text>
    </g>
  )
}
