import type { Knob } from '@/api/client'
import { Choice } from '@/ui/fields/choice'
import { NumberRow } from '@/ui/fields/number-row'
import { Hint } from '@/ui/hint'

import type { RuledOut, Value } from './rules'

type KnobProps = {
  knob: Knob
  value: Value
  ruledOut: RuledOut
  onTurn: (value: Value) => Promise<void>
  onMove?: ((value: number | null) => void) | undefined
}

/** The hint of a knob, with the encoder's own term for its value where it has one. */
function hintWords(knob: Knob, value: Value): string {
  const term = knob.options.find((option) => option.value === value)?.term
  return term ? `${knob.hint} (${term})` : knob.hint
}

/** One knob, as its values want it: a switch, a choice, or a number. */
export function KnobRow({ knob, value, ruledOut, onTurn, onMove }: KnobProps) {
  if (ruledOut?.allowed.length === 1) {
    return (
      <p className="flex justify-between gap-3 text-soft">
        <span>{knob.label}</span>
        <span className="text-right text-tiny">{ruledOut.reason}</span>
      </p>
    )
  }
  if (knob.options.some((option) => typeof option.value === 'boolean')) {
    return (
      <Hint words={knob.hint}>
        <label className="flex items-center justify-between gap-2">
          <span className="text-soft">{knob.label}</span>
          <input
            type="checkbox"
            checked={value === true}
            onChange={(event) => void onTurn(event.target.checked)}
          />
        </label>
      </Hint>
    )
  }
  if (knob.options.length > 0) {
    const options = knob.options.filter(
      (option) => !ruledOut || ruledOut.allowed.includes(option.value),
    )
    return (
      <Hint words={ruledOut ? ruledOut.reason : hintWords(knob, value)}>
        <div>
          <Choice
            label={knob.label}
            className="w-36"
            value={String(value)}
            options={options.map((option) => ({ value: String(option.value), text: option.text }))}
            onChange={(text) =>
              void onTurn(options.find((option) => String(option.value) === text)?.value ?? null)
            }
          />
          {ruledOut && <p className="text-right text-tiny text-soft">{ruledOut.reason}</p>}
        </div>
      </Hint>
    )
  }
  return (
    <>
      {knob.none_text && (
        <label className="flex items-center justify-between gap-2">
          <span className="text-soft">
            {knob.label}: {knob.none_text.toLowerCase()}
          </span>
          <input
            type="checkbox"
            checked={value === null}
            onChange={(event) => void onTurn(event.target.checked ? null : knob.most)}
          />
        </label>
      )}
      {value !== null && (
        <NumberRow
          label={knob.label}
          hint={knob.hint}
          value={Number(value)}
          least={knob.least}
          most={knob.most}
          step={knob.step}
          unit=""
          onTurn={onTurn}
          onMove={onMove}
        />
      )}
    </>
  )
}
