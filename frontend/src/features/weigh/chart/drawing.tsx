import { useId } from 'react'

import { api, type Encode, type Forecast, type Weighing } from '@/api/client'
import { useForecasts, usePhotoAct, useQualitySteps } from '@/api/queries'
import { useDraft } from '@/ui/fields/use-draft'
import { countWords, limitWords, sizeWords } from '@/words'

import type { Tuning } from '../tuning/use-tuning'
import { Axes } from './axes'
import { type Plot, scalesFor } from './chart-model'
import { Edges } from './edges'
import { Forecasts } from './forecast/forecasts'
import { bestWithin, lightestFor } from './forecast/read-off'
import { Frontier, Knee } from './frontier'
import { LikenessLine } from './likeness-line'
import { LimitLine } from './limit-line'
import { Marker } from './marker'
import { Point } from './point'
import { isTunable, seriesOf } from './series'
import { Unmeasured } from './unmeasured'

export type ChartContent = {
  weighing: Weighing
  selected: Encode | undefined
  against: Encode | undefined
  tuning: Tuning
  onSelect: (encodeId: number) => void
}

type Props = ChartContent & { plot: Plot; onHover: (encode: Encode | null) => void }

/** The chart itself, back to front: axes, frontier, aim, edges, points, and the marker on top. */
export function Drawing(props: Props) {
  const { plot, weighing, selected, against, tuning, onSelect, onHover } = props
  const { encodes, candidate_ids, aim } = weighing
  const act = usePhotoAct(weighing.id)
  const limit = useDraft(aim.limit_bytes, (limit_bytes) =>
    act.mutateAsync(() => api.changeAim(weighing.id, { limit_bytes })),
  )
  const likeness = useDraft(aim.likeness, (wanted) =>
    act.mutateAsync(() => api.changeAim(weighing.id, { likeness: wanted })),
  )
  const forecasts = useForecasts(weighing) ?? []
  const looked = [selected, against].filter((encode) => encode !== undefined)
  const scales = scalesFor(weighing, looked, plot)
  const { x, y } = scales
  const [low = 0] = y.domain()
  const [lightest = 0, heaviest = 0] = x.domain()
  const drawn = encodes.filter(
    ({ likeness, size_bytes }) =>
      likeness >= low && size_bytes >= lightest && size_bytes <= heaviest,
  )
  const clip = useId()
  const isBig = ({ id }: Encode) => candidate_ids.includes(id) && id !== selected?.id
  const format = selected?.settings.format
  const series = selected && isTunable(selected) ? seriesOf(selected) : null
  const steps = useQualitySteps(weighing, series) ?? []
  return (
    <svg
      width={plot.width}
      height={plot.height}
      role="group"
      aria-label={`Bytes against likeness of ${countWords(encodes.length, 'encode')}, ${limitOf(weighing)}`}
      className="block text-tiny select-none"
    >
      <clipPath id={clip}>
        <rect
          x={plot.left}
          y={plot.top}
          width={Math.max(0, plot.width - plot.left - plot.right)}
          height={Math.max(0, plot.height - plot.top - plot.bottom)}
        />
      </clipPath>
      <Axes plot={plot} scales={scales} />
      <Frontier weighing={weighing} scales={scales} clip={clip} />
      <Forecasts forecasts={forecasts} scales={scales} clip={clip} />
      {likeness.value !== null && (
        <LikenessLine
          value={likeness.value}
          plot={plot}
          y={y}
          expected={likeness.value === aim.likeness ? '' : bytesWords(forecasts, likeness.value)}
          onShow={likeness.show}
          onSend={likeness.send}
        />
      )}
      {limit.value !== null && (
        <LimitLine
          value={limit.value}
          plot={plot}
          x={x}
          expected={limit.value === aim.limit_bytes ? '' : looksWords(forecasts, limit.value)}
          onShow={limit.show}
          onSend={limit.send}
        />
      )}
      <Edges weighing={weighing} scales={scales} clip={clip} />
      {format && <Unmeasured steps={steps} format={format} scales={scales} clip={clip} />}
      <Knee weighing={weighing} scales={scales} />
      {drawn.map((encode) => (
        <Point
          key={encode.id}
          encode={encode}
          at={[x(encode.size_bytes), y(encode.likeness)]}
          scale={isBig(encode) ? 1.3 : 0.55}
          isAgainst={encode.id === against?.id}
          onSelect={() => onSelect(encode.id)}
          onHover={onHover}
        />
      ))}
      {selected && <Marker {...{ steps, tuning, x, y }} encode={selected} />}
    </svg>
  )
}

function limitOf({ search }: Weighing): string {
  return search.limit_bytes === null ? 'no limit' : `limit ${limitWords(search.limit_bytes)}`
}

/** What is to be expected at a limit. */
function looksWords(forecasts: readonly Forecast[], bytes: number): string {
  const best = bestWithin(forecasts, bytes)
  return best ? `, about ${Math.round(best.likeness)} as ${best.name}` : ''
}

/** What is to be expected for a likeness. */
function bytesWords(forecasts: readonly Forecast[], likeness: number): string {
  const lightest = lightestFor(forecasts, likeness)
  return lightest ? `, about ${sizeWords(Math.round(lightest.size_bytes))} as ${lightest.name}` : ''
}
