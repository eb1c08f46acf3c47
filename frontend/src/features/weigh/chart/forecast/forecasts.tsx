import { area, line } from 'd3-shape'

import type { Forecast } from '@/api/client'
import { FORMAT_FILLS, FORMAT_STROKES } from '@/ui/format-mark'

import type { Scales } from '../chart-model'

type Props = { forecasts: readonly Forecast[]; scales: Scales; clip: string }
type Point = Forecast['points'][number]

/** What each format is expected to come to at any bytes, with its band: not measured, so dashed. */
export function Forecasts({ forecasts, scales: { x, y }, clip }: Props) {
  const along = line<Point>(
    (point) => x(point.size_bytes),
    (point) => y(point.likeness),
  )
  const band = area<Point>(
    (point) => x(point.size_bytes),
    (point) => y(point.least),
    (point) => y(point.most),
  )
  return forecasts.map(({ format, points }) => (
    <g key={format} clipPath={`url(#${clip})`} className="pointer-events-none">
      <path d={band(points) ?? ''} className={FORMAT_FILLS[format]} fillOpacity={0.06} />
      <path
        d={along(points) ?? ''}
        fill="none"
        strokeDasharray="3 3"
        strokeOpacity={0.7}
        className={FORMAT_STROKES[format]}
      />
    </g>
  ))
}
