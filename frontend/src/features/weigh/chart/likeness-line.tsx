import type { Plot } from './chart-model'

type Props = { likeness: number; plot: Plot; y: (likeness: number) => number }

/** The likeness that is aimed for. */
export function LikenessLine({ likeness, plot, y }: Props) {
  const right = plot.width - plot.right
  return (
    <g>
      <path d={`M${plot.left} ${y(likeness)}H${right}`} className="stroke-over" strokeWidth={1.5} />
      <text x={right - 4} y={y(likeness) + 14} textAnchor="end" className="fill-over font-semibold">
        no worse than {likeness}
      </text>
    </g>
  )
}
