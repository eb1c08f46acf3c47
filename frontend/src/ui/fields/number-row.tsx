import { Dial } from './dial'
import { Field } from './field'
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
  const read = (typed: string) => {
    const to = Number.parseFloat(typed.replace(',', '.'))
    return to >= least && to <= most ? rounded(to) : null
  }
  return (
    <Hint words={hint}>
      <div>
        <Field
          label={label}
          text={text}
          read={read}
          problem={`From ${least} to ${most}.`}
          onEnter={(typed) => draft.send(read(typed) ?? draft.value)}
          className="w-16 py-0.5 text-right text-small"
          labelClass="w-[190px] text-soft"
        />
        <Dial
          label={label}
          value={draft.value}
          min={least}
          max={most}
          step={step}
          valueText={text}
          className="w-full"
          onChange={(to) => draft.show(rounded(to))}
          onCommit={(to) => draft.send(rounded(to))}
        />
      </div>
    </Hint>
  )
}
