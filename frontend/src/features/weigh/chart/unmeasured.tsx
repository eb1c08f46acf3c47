import type { Format } from '@/api/client'
import { FORMAT_STROKES } from '@/ui/format-mark'

import type { Scales } from './chart-model'
import { expectedAt, type Point } from './series'

type Props = {
  points: readonly Point[]
  steps: readonly number[]
  format: Format
  scales: Scales
}

/** The steps between those that were measured, hollow: where they are to be expected. */
export function Unmeasured({ points, steps, format, scales: { x, y } }: Props) {
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
