import { useRef } from 'react'

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
  /** Told of values on the way, and of none once the hand has let go. */
  onMove?: ((value: number | null) => void) | undefined
}

/** A number on a dial, which shows what was chosen until the server has it. */
export function NumberRow(props: Props) {
  const { label, hint, value, least, most, step, unit, onTurn, onMove } = props
  const draft = useDraft(value, onTurn)
  /** By keys a value is sent before it is on the way. */
  const sent = useRef<number | null>(null)
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
          labelClass="w-48 text-soft"
        />
        <Dial
          label={label}
          value={draft.value}
          min={least}
          max={most}
          step={step}
          valueText={text}
          className="w-full"
          onChange={(to) => {
            draft.show(rounded(to))
            onMove?.(to === sent.current ? null : rounded(to))
          }}
          onCommit={(to) => {
            sent.current = to
            draft.send(rounded(to))
            onMove?.(null)
          }}
        />
      </div>
    </Hint>
  )
}
