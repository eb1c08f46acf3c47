import type { Plot } from './chart-model'

type Props = { likeness: number; plot: Plot; y: (likeness: number) => number }

/** The likeness from which on more bytes are no use. */
export function LikenessLine({ likeness, plot, y }: Props) {
  const right = plot.width - plot.right
  return (
    <g>
      <path d={`M${plot.left} ${y(likeness)}H${right}`} className="stroke-navy" strokeWidth={1.5} />
      <text x={right - 4} y={y(likeness) + 14} textAnchor="end" className="fill-navy font-semibold">
        enough: {likeness}
      </text>
    </g>
  )
}
