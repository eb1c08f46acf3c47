import type { Encode, FormatKnobs, Knob, Settings, Weighing } from '@/api/client'
import { useKnobs } from '@/api/queries'
import { Choice } from '@/ui/choice'
import { sizeWords } from '@/words'

import { AllFormats } from './all-formats'
import { NumberRow } from './number-row'
import type { Tunable } from './series'
import type { Tuning } from './use-tuning'

type Value = number | boolean | string | null

type Props = { weighing: Weighing; selected: Tunable; tuning: Tuning }

/** Every knob of the selected encode, and what the last turn cost or gained. */
export function TuningPanel({ weighing, selected, tuning }: Props) {
  const formats = useKnobs().data?.formats ?? []
  const knobs = formats.find(({ format }) => format === selected.settings.format)
  const full = weighing.framed?.width_px ?? selected.width_px
  if (!knobs) return null
  const turn = (settings: Settings, width_px = selected.width_px) =>
    tuning.tune(selected, { settings, width_px })
  const values = selected.settings as unknown as Record<string, Value>
  return (
    <section aria-label="Tuning" className="space-y-2 border-b border-line px-3.5 py-3">
      <div className="flex items-center justify-between">
        <h2 className="text-[11px] font-semibold text-soft">Tuning</h2>
        <span role="status" className="text-[11.5px] text-soft">
          {tuning.wish && (tuning.draft ? 'Draft in sight. Encoding …' : 'Encoding …')}
        </span>
      </div>
      {tuning.before && !tuning.wish && tuning.before.id !== selected.id && (
        <p className="num text-[11.5px]">{changeWords(tuning.before, selected)}</p>
      )}
      {tuning.problem && (
        <p role="alert" className="text-over">
          {tuning.problem}
        </p>
      )}
      {knobs.knobs
        .filter((knob) => !knob.for_alpha || weighing.framed?.is_transparent)
        .map((knob) => (
          <KnobRow
            key={knob.field}
            knob={knob}
            value={values[knob.field] ?? null}
            ruledOut={ruledOut(knobs, knob.field, values)}
            onTurn={(value) => turn({ ...values, [knob.field]: value } as unknown as Settings)}
          />
        ))}
      <NumberRow
        label="Pixels sent"
        hint="Fewer pixels, enlarged by the browser, can look better at a tight limit"
        value={Math.round((selected.width_px / full) * 100)}
        least={5}
        most={100}
        step={5}
        unit=" %"
        onTurn={(percent) => turn(selected.settings, Math.max(1, Math.round((full * percent) / 100)))}
      />
      <AllFormats weighing={weighing} format={selected.settings.format} />
    </section>
  )
}

/** `12.3 kB lighter, 0.8 points less alike`. */
function changeWords(before: Encode, after: Encode): string {
  const bytes = after.size_bytes - before.size_bytes
  const likeness = after.likeness - before.likeness
  const weight =
    bytes === 0 ? 'Same bytes' : `${sizeWords(Math.abs(bytes))} ${bytes < 0 ? 'lighter' : 'heavier'}`
  const looks =
    Math.abs(likeness) < 0.05
      ? 'as alike as before'
      : `${Math.abs(likeness).toFixed(1)} points ${likeness < 0 ? 'less' : 'more'} alike`
  return `${weight}, ${looks}`
}

type RuledOut = { allowed: Value[]; reason: string } | null

/** What the other knobs leave to one, and why. */
function ruledOut(knobs: FormatKnobs, field: string, values: Record<string, Value>): RuledOut {
  const rule = knobs.rules.find(
    (each) => each.target === field && each.values.includes(values[each.field] ?? null),
  )
  return rule ? { allowed: rule.allowed, reason: rule.reason } : null
}

type KnobProps = {
  knob: Knob
  value: Value
  ruledOut: RuledOut
  onTurn: (value: Value) => Promise<void>
}

function KnobRow({ knob, value, ruledOut, onTurn }: KnobProps) {
  if (ruledOut?.allowed.length === 1) {
    return (
      <p className="flex justify-between gap-3 text-soft" title={ruledOut.reason}>
        <span>{knob.label}</span>
        <span className="text-right text-[11px]">{ruledOut.reason}</span>
      </p>
    )
  }
  if (knob.options.some((option) => typeof option.value === 'boolean')) {
    return (
      <label className="flex items-center justify-between gap-2" title={knob.hint}>
        <span className="text-soft">{knob.label}</span>
        <input
          type="checkbox"
          checked={value === true}
          onChange={(event) => void onTurn(event.target.checked)}
        />
      </label>
    )
  }
  if (knob.options.length > 0) {
    const options = knob.options.filter(
      (option) => !ruledOut || ruledOut.allowed.includes(option.value),
    )
    return (
      <div title={ruledOut ? ruledOut.reason : knob.hint}>
        <Choice
          label={knob.label}
          className="w-36"
          value={String(value)}
          options={options.map((option) => ({ value: String(option.value), text: option.text }))}
          onChange={(text) =>
            void onTurn(options.find((option) => String(option.value) === text)?.value ?? null)
          }
        />
        {ruledOut && <p className="text-right text-[11px] text-soft">{ruledOut.reason}</p>}
      </div>
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
        />
      )}
    </>
  )
}
