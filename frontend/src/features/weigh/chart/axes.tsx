import { useTerms } from '@/api/queries'
import { limitWords } from '@/words'

import { type Plot, type Scales, xTicks } from './chart-model'

/** Height that a level of likeness needs for its words. */
const LABEL_PX = 14
const TICK_GAP_PX = 66
/** Room in the margin for the words of a level beside its number. */
const WORDS_PX = 120

type Props = { plot: Plot; scales: Scales }

/** Lines of likeness with the words that hold from there on, and sizes along the bottom. */
export function Axes({ plot, scales: { x, y } }: Props) {
  const { likeness_levels } = useTerms()
  const [low = 0, high = 100] = y.domain()
  const right = plot.width - plot.right
  const hasRoom = (least: number, index: number) =>
    y(least) - y(likeness_levels[index - 1]?.least ?? 100) > LABEL_PX
  return (
    <g>
      {y.ticks(Math.min(5, (high - low) / 10)).map((likeness) => (
        <g key={likeness}>
          <path d={`M${plot.left} ${y(likeness)}H${right}`} className="stroke-hair" />
          <text x={plot.left - 6} y={y(likeness) + 4} textAnchor="end" className="num fill-soft">
            {likeness}
          </text>
        </g>
      ))}
      {likeness_levels.map(
        ({ least, words }, index) =>
          least > low &&
          plot.left > WORDS_PX &&
          hasRoom(least, index) && (
            <text key={words} x={4} y={y(least) + 4} className="fill-soft">
              {words}
            </text>
          ),
      )}
      {xTicks(x.domain(), x, TICK_GAP_PX).map((bytes) => (
        <text
          key={bytes}
          x={x(bytes)}
          y={plot.height - 8}
          textAnchor="middle"
          className="num fill-soft"
        >
          {limitWords(bytes)}
        </text>
      ))}
    </g>
  )
}
