import type { Encode, Weighing } from '@/api/client'
import { useQualitySteps } from '@/api/queries'
import { FormatMark } from '@/ui/format-mark'
import { likenessNumber, limitWords, sizeWords } from '@/words'

import { seriesOf, stepOf, type Tunable, wantedAt } from '../chart/series'
import type { Tuning } from '../tuning/use-tuning'

/** What is expected to lie this far below the limit will hardly be over it. */
const SAFE_SHARE = 0.98
/** Less than this share of the limit leaves bytes that buy something, or nothing. */
const SPENT_SHARE = 0.9

type Props = {
  weighing: Weighing
  best: Tunable
  tuning: Tuning
  /** Looks at the one beside the other, which is pinned. */
  onCompare: (against: Encode, encode?: Encode) => void
}

/** A row for spending the whole limit, where less is enough: the best that was measured within it,
 * or what is made when it is asked for. */
export function UseAll({ weighing, best, tuning, onCompare }: Props) {
  const { aim, encodes, search } = weighing
  const limit = aim.limit_bytes
  const own = stepOf(best.settings)
  const isSpare = limit !== null && aim.likeness !== null && best.size_bytes < SPENT_SHARE * limit
  const isAsked = isSpare && best.meets_aim && search.state === 'done' && own !== null
  const steps = useQualitySteps(weighing, isAsked ? seriesOf(best) : null) ?? []
  if (!isAsked) return null
  const step = steps.findLast((each) => each.size_bytes <= SAFE_SHARE * limit)
  const [found] = encodes
    .filter(({ size_bytes }) => size_bytes <= limit)
    .sort((a, b) => b.likeness - a.likeness)
  const isFound = found && (!step || step.step <= own || found.likeness >= step.likeness)
  const shown = isFound ? found : step && { ...best, ...step }
  if (!shown || shown.likeness <= best.likeness) return null
  const use = () => {
    onCompare(best, isFound ? found : undefined)
    if (!isFound && step) void tuning.tune(best, wantedAt(best, step.step))
  }
  return (
    <tr className="relative h-11 border-b border-hair text-soft hover:bg-field">
      <td className="p-1.5 pl-2">
        <button type="button" className="text-left after:absolute after:inset-0" onClick={use}>
          Use all {limitWords(limit)}
        </button>
        <span className="flex items-center gap-1 text-tiny">
          <FormatMark format={shown.settings.format} />
          {shown.name}
          {isFound ? '' : ', expected'}
        </span>
      </td>
      <td className="num p-1.5 text-right whitespace-nowrap">{sizeWords(shown.size_bytes)}</td>
      <td className="num p-1.5 text-right">{shown.width_px}</td>
      <td className="num p-1.5 text-right">{likenessNumber(shown.likeness)}</td>
    </tr>
  )
}
