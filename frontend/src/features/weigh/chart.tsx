import { curveMonotoneX, line } from 'd3-shape'
import { useState } from 'react'

import type { Encode, Format, Weighing } from '@/api/client'
import { useChangeAim, useKnobs } from '@/api/queries'
import { FORMAT_FILLS, FORMAT_SHAPES, FORMAT_STROKES } from '@/ui/format-mark'
import { useDraft } from '@/ui/use-draft'
import { useSize } from '@/ui/use-size'
import { encodeName, FORMAT_NAMES, limitWords, pixelWords, settingWords, sizeWords } from '@/words'

import { edge, LEVELS, type Plot, scalesFor, spread, xTicks } from './chart-model'
import { LimitLine } from './limit-line'
import { Marker } from './marker'
import { expectedAt, type Point as SeriesPoint, seriesOf, stepOf } from './series'
import type { Tuning } from './use-tuning'

const FORMATS = Object.keys(FORMAT_NAMES) as Format[]
const LABEL_PX = 14
const MARGINS = { left: 44, right: 48, top: 10, bottom: 24 }

type Props = {
  weighing: Weighing
  selected: Encode | undefined
  against: Encode | undefined
  tuning: Tuning
  onSelect: (encodeId: number) => void
}

/** Bytes against likeness: every encode made, an edge per format, and the limit, all to be moved. */
export function Chart(props: Props) {
  const [ref, size] = useSize()
  const [hovered, setHovered] = useState<Encode | null>(null)
  const { encodes, knee } = props.weighing
  const bend = encodes.find(({ id }) => id === knee?.encode_id)
  return (
    <section
      aria-label="Chart"
      className="grid min-h-0 grid-rows-[auto_1fr] border-t border-line bg-sheet px-3 pt-2"
    >
      <div className="flex justify-between gap-3 text-xs">
        <h2 className="shrink-0 font-semibold">What each format can do for these bytes</h2>
        <p className="truncate text-soft">
          {hovered
            ? pointWords(hovered)
            : bend && knee
              ? `Beyond ${sizeWords(bend.size_bytes)}, twice the bytes gain ${knee.gain_per_doubling.toFixed(1)} likeness`
              : `Likeness, by bytes of the file; ${encodes.length} encodes measured`}
        </p>
      </div>
      <div ref={ref} className="min-h-0 overflow-hidden">
        {size.width > 0 && (
          <Drawing plot={{ ...size, ...MARGINS }} onHover={setHovered} {...props} />
        )}
      </div>
    </section>
  )
}

type DrawingProps = Props & { plot: Plot; onHover: (encode: Encode | null) => void }

function Drawing({ plot, weighing, selected, against, tuning, onSelect, onHover }: DrawingProps) {
  const { encodes, candidate_ids } = weighing
  const { likeness } = weighing.aim
  const changeAim = useChangeAim(weighing.id)
  const knobs = useKnobs().data?.formats ?? []
  const limit = useDraft(weighing.aim.limit_bytes, (limit_bytes) =>
    changeAim.mutateAsync({ limit_bytes }),
  )
  const { x, y } = scalesFor(encodes, candidate_ids, weighing.aim.limit_bytes, plot)
  const [low = 0, high = 100] = y.domain()
  const right = plot.width - plot.right
  const drawn = encodes.filter((encode) => encode.likeness >= low || encode === selected)
  const edges = FORMATS.map((format) => ({ format, points: edge(drawn, format) })).filter(
    ({ points }) => points.length > 0,
  )
  const labelYs = spread(
    edges.map(({ points }) => y(points.at(-1)?.likeness ?? low)),
    12,
  )
  const byId = new Map(encodes.map((encode) => [encode.id, encode]))
  const best = weighing.frontier_ids
    .map((id) => byId.get(id))
    .filter((encode) => encode !== undefined && encode.likeness >= low) as Encode[]
  const bend = byId.get(weighing.knee?.encode_id ?? 0)
  const chosen = drawn.filter(({ id }) => candidate_ids.includes(id) && id !== selected?.id)
  const steps = knobs.find(({ format }) => format === selected?.settings.format)?.steps ?? []
  const points = selected ? seriesOf(encodes, selected) : []
  const through = line<Encode>(
    (encode) => x(encode.size_bytes),
    (encode) => y(encode.likeness),
  )
  return (
    <svg
      width={plot.width}
      height={plot.height}
      role="group"
      aria-label={`Bytes against likeness of ${encodes.length} encodes, limit ${limitWords(weighing.search.limit_bytes)}`}
      className="block text-[11px] select-none"
    >
      {y.ticks(Math.min(5, (high - low) / 10)).map((likeness) => (
        <g key={likeness}>
          <path d={`M${plot.left} ${y(likeness)}H${right}`} className="stroke-hair" />
          <text x={plot.left - 6} y={y(likeness) + 4} textAnchor="end" className="num fill-soft">
            {likeness}
          </text>
        </g>
      ))}
      {LEVELS.filter((level) => level.likeness > low && y(0) - y(level.room) > LABEL_PX).map(
        (level) => (
          <text key={level.text} x={plot.left + 6} y={y(level.likeness) - 4} className="fill-soft">
            {level.text}
          </text>
        ),
      )}
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
      <path d={through(best) ?? ''} fill="none" strokeWidth={7} className="stroke-line/60">
        <title>The best that was reached for any bytes</title>
      </path>
      {likeness === null ? (
        <LimitLine value={limit.value} plot={plot} x={x} onShow={limit.show} onSend={limit.send} />
      ) : (
        <g>
          <path
            d={`M${plot.left} ${y(likeness)}H${right}`}
            className="stroke-over"
            strokeWidth={1.5}
          />
          <text
            x={right - 4}
            y={y(likeness) + 14}
            textAnchor="end"
            className="fill-over font-semibold"
          >
            no worse than {likeness}
          </text>
        </g>
      )}
      {edges.map(({ format, points: onEdge }, index) => (
        <Edge key={format} {...{ format, x, y }} points={onEdge} labelY={labelYs[index] ?? 0} />
      ))}
      {selected && steps.length > 0 && stepOf(selected.settings) !== null && (
        <Unmeasured points={points} steps={steps} format={selected.settings.format} x={x} y={y} />
      )}
      {bend && (
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
      )}
      {drawn.map((encode) => (
        <Point
          key={encode.id}
          encode={encode}
          at={[x(encode.size_bytes), y(encode.likeness)]}
          scale={chosen.includes(encode) ? 1.3 : 0.55}
          isAgainst={encode.id === against?.id}
          onSelect={() => onSelect(encode.id)}
          onHover={onHover}
        />
      ))}
      {selected && <Marker {...{ points, steps, tuning, x, y }} encode={selected} />}
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
        {FORMAT_NAMES[format]}
      </text>
    </g>
  )
}

type UnmeasuredProps = {
  points: readonly SeriesPoint[]
  steps: readonly number[]
  format: Format
  x: (bytes: number) => number
  y: (likeness: number) => number
}

/** The steps between those that were measured, hollow: where they are to be expected. */
function Unmeasured({ points, steps, format, x, y }: UnmeasuredProps) {
  const from = points[0]?.step ?? 0
  const to = points.at(-1)?.step ?? 0
  return steps
    .filter((step) => step > from && step < to)
    .map((step) => expectedAt(points, step))
    .filter((expected) => !expected.isMeasured)
    .map((expected) => (
      <circle
        key={expected.step}
        cx={x(expected.size_bytes)}
        cy={y(expected.likeness)}
        r={2}
        className={`pointer-events-none fill-sheet ${FORMAT_STROKES[format]}`}
      />
    ))
}

type PointProps = {
  encode: Encode
  at: [number, number]
  scale: number
  isAgainst: boolean
  onSelect: () => void
  onHover: (encode: Encode | null) => void
}

/** A measured encode; a click loads it in the stage. The table is its way by keyboard. */
function Point({ encode, at, scale, isAgainst, onSelect, onHover }: PointProps) {
  const { format } = encode.settings
  return (
    <g
      transform={`translate(${at.join(' ')})`}
      className="cursor-pointer"
      onClick={onSelect}
      onPointerEnter={() => onHover(encode)}
      onPointerLeave={() => onHover(null)}
    >
      <circle r={7} className="fill-transparent" />
      {isAgainst && <path d="M-9-9h18v18h-18z" className="fill-none stroke-ink" strokeWidth={1.5} />}
      <path
        d={FORMAT_SHAPES[format]}
        transform={`scale(${scale})`}
        strokeWidth={scale > 1 ? 1.2 : 0}
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
