import type { Weighing } from '@/api/client'
import { Button } from '@/ui/button'
import { Choice } from '@/ui/fields/choice'
import { Dial } from '@/ui/fields/dial'
import { Field } from '@/ui/fields/field'
import { parseNumber } from '@/words'

import { RATIOS } from './picture/crop-model'
import type { FramingEditor } from './use-framing'

const MOST_DEG = 15
const STEP_DEG = 0.1

type Props = { weighing: Weighing; framing: FramingEditor }

/** Crop, turn, straighten and trim. */
export function Toolbar({ weighing, framing }: Props) {
  const { crop, straighten, margins } = framing
  const degrees = straighten.value
  const read = (text: string) => parseNumber(text, -MOST_DEG, MOST_DEG)
  return (
    <div
      role="toolbar"
      aria-label="Framing"
      className="flex flex-wrap items-center gap-x-3.5 gap-y-1.5 px-3.5 py-1.5 text-small"
    >
      <div className="flex items-center gap-1.5">
        <Choice
          label="Crop"
          className="w-23"
          value={framing.ratio}
          options={RATIOS}
          onChange={framing.chooseRatio}
        />
        <Button look="small" disabled={!crop.value} onClick={() => crop.send(null)}>
          No crop
        </Button>
      </div>
      <div className="flex gap-1.5">
        <Turn label="Turn left" drawing={TURN_LEFT} onClick={() => framing.turn('left')} />
        <Turn label="Turn right" drawing={TURN_RIGHT} onClick={() => framing.turn('right')} />
        <Turn label="Flip" drawing={FLIP} onClick={() => framing.turn('flip')} />
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
          className="w-24"
          onChange={(to) => straighten.show(round(to))}
          onCommit={(to) => straighten.send(round(to))}
        />
        <Field
          label="Degrees"
          isLabelHidden
          className="w-13 text-right"
          text={`${degrees}°`}
          read={read}
          problem={`−${MOST_DEG} to ${MOST_DEG} degrees`}
          onEnter={(text) => straighten.send(read(text) ?? 0)}
        />
      </div>
      <div className="ml-auto flex gap-1.5">
        <Button look="small" disabled={margins.isLooking} onClick={margins.find}>
          {margins.isLooking ? 'Looking …' : 'Trim margins'}
        </Button>
        <Button look="small" disabled={!isFramed(weighing)} onClick={framing.reset}>
          Reset
        </Button>
      </div>
    </div>
  )
}

const TURN_LEFT = 'M3 4v4h4M3.6 8A5.5 5.5 0 1 1 4.5 12.5'
const TURN_RIGHT = 'M13 4v4H9M12.4 8A5.5 5.5 0 1 0 11.5 12.5'
const FLIP = 'M8 2v12M6 4.5v7H2zM10 4.5v7h4z'

type TurnProps = { label: string; drawing: string; onClick: () => void }

function Turn({ label, drawing, onClick }: TurnProps) {
  return (
    <Button look="small" aria-label={label} hint={label} onClick={onClick}>
      <svg
        viewBox="0 0 16 16"
        className="size-4 fill-none stroke-ink"
        strokeWidth={1.4}
        aria-hidden
      >
        <path d={drawing} />
      </svg>
    </Button>
  )
}

function round(degrees: number): number {
  return Math.round(degrees * 10) / 10
}

/** Whether a turn, crop or straightening could be taken back. */
function isFramed({ framing }: Weighing): boolean {
  const { orientation, crop, straighten_deg, focus } = framing
  return (
    orientation !== 1 || crop !== null || straighten_deg !== 0 || focus.x !== 0.5 || focus.y !== 0.5
  )
}
