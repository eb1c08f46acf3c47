import type { Weighing } from '@/api/client'
import { Button } from '@/ui/button'
import { Choice } from '@/ui/choice'
import { Dial } from '@/ui/dial'
import { Field } from '@/ui/field'
import { parseNumber } from '@/words'

import { RATIOS } from './crop-model'
import type { FramingDesk } from './use-framing'

const MOST_DEG = 15
const STEP_DEG = 0.1

type Props = { weighing: Weighing; framing: FramingDesk }

/** Crop, turn, straighten and trim. */
export function Toolbar({ weighing, framing }: Props) {
  const { crop, straighten, margins } = framing
  const degrees = straighten.value
  const read = (text: string) => parseNumber(text, -MOST_DEG, MOST_DEG)
  return (
    <div
      role="toolbar"
      aria-label="Framing"
      className="flex flex-wrap items-center gap-x-4 gap-y-1.5 px-3.5 py-1.5 text-xs"
    >
      <div className="flex items-center gap-1.5">
        <Choice
          label="Crop"
          className="w-[104px]"
          value={framing.ratio}
          options={RATIOS}
          onChange={framing.chooseRatio}
        />
        <Button disabled={!crop.value} onClick={() => crop.send(null)}>
          No crop
        </Button>
      </div>
      <div className="flex gap-1.5">
        <Button onClick={() => framing.turn('left')}>Turn left</Button>
        <Button onClick={() => framing.turn('right')}>Turn right</Button>
        <Button onClick={() => framing.turn('flip')}>Flip</Button>
      </div>
      <div className="flex items-center gap-2">
        <span className="text-soft">Straighten</span>
        <Dial
          label="Straighten, in degrees"
          value={degrees}
          min={-MOST_DEG}
          max={MOST_DEG}
          step={STEP_DEG}
          valueText={`${degrees}°`}
          className="w-28"
          onChange={(to) => straighten.show(round(to))}
          onCommit={(to) => straighten.send(round(to))}
        />
        <Field
          label="Degrees"
          isLabelHidden
          className="w-14 text-right"
          text={`${degrees}°`}
          read={read}
          problem={`−${MOST_DEG} to ${MOST_DEG} degrees`}
          onEnter={(text) => straighten.send(read(text) ?? 0)}
        />
      </div>
      <div className="ml-auto flex gap-1.5">
        <Button disabled={margins.isLooking} onClick={margins.find}>
          {margins.isLooking ? 'Looking …' : 'Trim margins'}
        </Button>
        <Button disabled={!isFramed(weighing)} onClick={framing.reset}>
          As it came
        </Button>
      </div>
    </div>
  )
}

function round(degrees: number): number {
  return Math.round(degrees * 10) / 10
}

/** Whether a turn, crop or straightening could be taken back. */
function isFramed({ framing }: Weighing): boolean {
  const { orientation, crop, straighten_deg, focus } = framing
  return orientation !== 1 || crop !== null || straighten_deg !== 0 || focus.x !== 0.5 || focus.y !== 0.5
}
