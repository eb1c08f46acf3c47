import { Dial } from './dial'
import { Hint } from '@/ui/hint'
import { useDraft } from './use-draft'

type Props = {
  label: string
  hint: string
  value: number
  least: number
  most: number
  step: number
  unit: string
  onTurn: (value: number) => Promise<unknown>
}

/** A number on a dial, which shows what was chosen until the server has it. */
export function NumberRow({ label, hint, value, least, most, step, unit, onTurn }: Props) {
  const draft = useDraft(value, onTurn)
  const rounded = (to: number) => Math.round(to / step) * step
  const text = `${Number(draft.value.toFixed(2))}${unit}`
  return (
    <Hint words={hint}>
      <div className="flex items-center justify-between gap-2">
        <span className="text-soft">{label}</span>
        <div className="flex items-center gap-2">
          <Dial
            label={label}
            value={draft.value}
            min={least}
            max={most}
            step={step}
            valueText={text}
            className="w-24"
            onChange={(to) => draft.show(rounded(to))}
            onCommit={(to) => draft.send(rounded(to))}
          />
          <span className="num w-10 text-right text-small">{text}</span>
        </div>
      </div>
    </Hint>
  )
}
