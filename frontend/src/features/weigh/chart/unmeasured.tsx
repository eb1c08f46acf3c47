import type { Format, QualityStep } from '@/api/client'
import { FORMAT_STROKES } from '@/ui/format-mark'

import type { Scales } from './chart-model'

type Props = { steps: readonly QualityStep[]; format: Format; scales: Scales; clip: string }

/** The steps between those that were measured, hollow: where they are to be expected. */
export function Unmeasured({ steps, format, scales: { x, y }, clip }: Props) {
  const first = steps.findIndex((each) => each.is_measured)
  const last = steps.findLastIndex((each) => each.is_measured)
  return steps
    .slice(Math.max(first, 0), last + 1)
    .filter((each) => !each.is_measured)
    .map((expected) => (
      <circle
        key={expected.step}
        cx={x(expected.size_bytes)}
        cy={y(expected.likeness)}
        r={2}
        clipPath={`url(#${clip})`}
        className={`pointer-events-none fill-sheet ${FORMAT_STROKES[format]}`}
      />
    ))
}
