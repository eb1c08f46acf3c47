import { curveMonotoneX, line } from 'd3-shape'

import type { Encode, Format } from '@/api/client'
import { FORMAT_FILLS, FORMAT_SHAPES, FORMAT_STROKES } from '@/ui/format-mark'
import { useSize } from '@/ui/use-size'
import { encodeName, FORMAT_NAMES, limitWords, pixelWords, settingWords, sizeWords } from '@/words'

import { edge, type Plot, scalesFor, spread, xTicks } from './chart-model'

const FORMATS = Object.keys(FORMAT_NAMES) as Format[]
/** From which likeness on which words hold, and how far it is to the next ones. */
const LEVELS = [
  { likeness: 90, text: 'no visible change', room: 10 },
  { likeness: 80, text: 'hard to spot', room: 10 },
  { likeness: 70, text: 'visible if you look', room: 10 },
  { likeness: 50, text: 'plain to see', room: 20 },
]
const LABEL_PX = 14
const MARGINS = { left: 44, right: 48, top: 10, bottom: 24 }

type Props = {
  encodes: readonly Encode[]
  candidateIds: readonly number[]
  selectedId: number | undefined
  limitBytes: number
}

/** Bytes against likeness: every encode made, an edge per format, and the limit. */
export function Chart({ encodes, candidateIds, selectedId, limitBytes }: Props) {
  const [ref, size] = useSize()
  return (
    <section
      aria-label="Chart"
      className="grid min-h-0 grid-rows-[auto_1fr] border-t border-line bg-sheet px-3 pt-2"
    >
      <div className="flex justify-between text-xs">
        <h2 className="font-semibold">What each format can do for these bytes</h2>
        <span className="text-soft">
          Likeness, by bytes of the file; {encodes.length} encodes measured
        </span>
      </div>
      <div ref={ref} className="min-h-0 overflow-hidden">
        {size.width > 0 && (
          <Drawing
            plot={{ ...size, ...MARGINS }}
            {...{ encodes, candidateIds, selectedId, limitBytes }}
          />
        )}
      </div>
    </section>
  )
}

function Drawing({ plot, encodes, candidateIds, selectedId, limitBytes }: Props & { plot: Plot }) {
  const { x, y } = scalesFor(encodes, candidateIds, limitBytes, plot)
  const [low = 0, high = 100] = y.domain()
  const right = plot.width - plot.right
  const floor = plot.height - plot.bottom
  const drawn = encodes.filter((encode) => encode.likeness >= low)
  const edges = FORMATS.map((format) => ({ format, points: edge(drawn, format) })).filter(
    ({ points }) => points.length > 0,
  )
  const labelYs = spread(
    edges.map(({ points }) => y(points.at(-1)?.likeness ?? low)),
    12,
  )
  const isCandidate = (encode: Encode) => candidateIds.includes(encode.id)
  const chosen = drawn.filter(isCandidate).sort((a) => (a.id === selectedId ? 1 : -1))
  return (
    <svg
      width={plot.width}
      height={plot.height}
      role="img"
      aria-label={`Bytes against likeness of ${encodes.length} encodes, limit ${limitWords(limitBytes)}`}
      className="block text-[11px]"
    >
      {y.ticks(Math.min(5, (high - low) / 10)).map((likeness) => (
        <g key={likeness}>
          <path d={`M${plot.left} ${y(likeness)}H${right}`} className="stroke-hair" />
          <text x={plot.left - 6} y={y(likeness) + 4} textAnchor="end" className="num fill-soft">
            {likeness}
          </text>
        </g>
      ))}
      {LEVELS.filter(
        (level) => level.likeness > low && y(0) - y(level.room) > LABEL_PX,
      ).map((level) => (
        <text key={level.text} x={plot.left + 6} y={y(level.likeness) - 4} className="fill-soft">
          {level.text}
        </text>
      ))}
      {xTicks(x.domain(), x, 66).map((bytes) => (
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
      <rect
        x={x(limitBytes)}
        y={plot.top}
        width={right - x(limitBytes)}
        height={floor - plot.top}
        className="fill-over/6"
      />
      <path
        d={`M${x(limitBytes)} ${plot.top}V${floor}`}
        className="stroke-over"
        strokeWidth={1.5}
      />
      <text x={x(limitBytes) + 6} y={floor - 6} className="fill-over font-semibold">
        limit {limitWords(limitBytes)}
      </text>
      {edges.map(({ format, points }, index) => (
        <Edge key={format} {...{ format, points, x, y }} labelY={labelYs[index] ?? 0} />
      ))}
      {drawn.map((encode) => (
        <Point key={encode.id} encode={encode} at={[x(encode.size_bytes), y(encode.likeness)]} />
      ))}
      {chosen.map((encode) => (
        <Marker
          key={encode.id}
          encode={encode}
          at={[x(encode.size_bytes), y(encode.likeness)]}
          isSelected={encode.id === selectedId}
        />
      ))}
    </svg>
  )
}

type EdgeProps = {
  format: Format
  points: Encode[]
  x: (bytes: number) => number
  y: (likeness: number) => number
  labelY: number
}

function Edge({ format, points, x, y, labelY }: EdgeProps) {
  const curve = line<Encode>(
    (point) => x(point.size_bytes),
    (point) => y(point.likeness),
  ).curve(curveMonotoneX)
  const last = points.at(-1)
  if (!last) return null
  return (
    <g>
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
        {FORMAT_NAMES[format]}
      </text>
    </g>
  )
}

type PointProps = { encode: Encode; at: [number, number] }

function Point({ encode, at }: PointProps) {
  const { format } = encode.settings
  return (
    <path
      d={FORMAT_SHAPES[format]}
      transform={`translate(${at.join(' ')}) scale(0.55)`}
      className={FORMAT_FILLS[format]}
    >
      <title>{pointWords(encode)}</title>
    </path>
  )
}

function Marker({ encode, at, isSelected }: PointProps & { isSelected: boolean }) {
  const { format } = encode.settings
  return (
    <g transform={`translate(${at.join(' ')})`}>
      {isSelected && <circle r={11} fill="none" strokeWidth={1.5} className="stroke-ink" />}
      <path
        d={FORMAT_SHAPES[format]}
        transform="scale(1.3)"
        strokeWidth={1.2}
        className={`stroke-white ${FORMAT_FILLS[format]}`}
      >
        <title>{pointWords(encode)}</title>
      </path>
    </g>
  )
}

function pointWords(encode: Encode): string {
  const made = `${encodeName(encode)}, ${settingWords(encode.settings)}, ${pixelWords(encode)} px`
  return `${made}: ${sizeWords(encode.size_bytes)}, likeness ${encode.likeness.toFixed(1)}`
}
