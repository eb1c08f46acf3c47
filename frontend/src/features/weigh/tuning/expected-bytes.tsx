import type { Weighing } from '@/api/client'
import { useQualitySteps } from '@/api/queries'
import { sizeWords } from '@/words'

import { seriesOf, stepOf, type Tunable } from '../chart/series'

type Props = { weighing: Weighing; of: Tunable }

/** What a file will weigh, while its knob is on the way: nothing where that is not known. */
export function ExpectedBytes({ weighing, of }: Props) {
  const step = stepOf(of.settings)
  const steps = useQualitySteps(weighing, seriesOf(of))
  const at = steps?.findLast((each) => step !== null && each.step <= step)
  if (!at) return null
  return (
    <p>
      {at.is_measured ? '' : 'About '}
      <span className="num">{sizeWords(at.size_bytes)}</span>
    </p>
  )
}
