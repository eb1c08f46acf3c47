import { useState } from 'react'

import type { Encode, Knob, Settings, Weighing } from '@/api/client'
import { useKnobs } from '@/api/queries'
import { NumberRow } from '@/ui/fields/number-row'
import { sizeWords } from '@/words'

import { type Tunable, turned } from '../chart/series'

import { AllFormats } from './all-formats'
import { ExpectedBytes } from './expected-bytes'
import { KnobRow } from './knob-row'
import { ruledOut, type Value } from './rules'
import type { Tuning } from './use-tuning'

/** What knobs trade bytes for. */
const GROUPS = [
  { group: 'detail', title: 'Detail for bytes' },
  { group: 'colour', title: 'Colour for bytes' },
  { group: 'loading', title: 'How it loads' },
  { group: 'time', title: 'Effort' },
] as const satisfies { group: Knob['group']; title: string }[]

/** Knobs that are turned every day; the others are looked for. */
const USUAL = ['quality', 'chroma', 'lossless', 'colours']

type Props = { weighing: Weighing; selected: Tunable; tuning: Tuning }

/** Every knob of the selected encode, and what the last turn cost or gained. */
export function TuningPanel({ weighing, selected: made, tuning }: Props) {
  const selected = turned(made, tuning.wanted)
  const formats = useKnobs().data?.formats ?? []
  const knobs = formats.find(({ format }) => format === selected.settings.format)
  const [moving, setMoving] = useState<Tunable | null>(null)
  const full = weighing.framed?.width_px ?? selected.width_px
  if (!knobs) return null
  const turn = (settings: Settings, width_px = selected.width_px) =>
    tuning.tune(selected, { settings, width_px })
  const values = selected.settings as unknown as Record<string, Value>
  const shown = knobs.knobs.filter((knob) => !knob.for_alpha || weighing.framed?.is_transparent)
  const usual = shown.filter(({ field }) => USUAL.includes(field))
  const rare = shown.filter(({ field }) => !USUAL.includes(field))
  const withValue = (knob: Knob, value: Value) =>
    ({ ...values, [knob.field]: value }) as unknown as Settings
  const pixelsAt = (percent: number) => Math.max(1, Math.round((full * percent) / 100))
  const row = (knob: Knob) => (
    <KnobRow
      key={knob.field}
      knob={knob}
      value={values[knob.field] ?? null}
      ruledOut={ruledOut(knobs, knob.field, values)}
      onTurn={(value) => turn(withValue(knob, value))}
      onMove={(value) =>
        setMoving(value === null ? null : { ...selected, settings: withValue(knob, value) })
      }
    />
  )
  return (
    <section aria-label="Tuning" className="space-y-2 px-3.5 py-3">
      <div className="min-h-5 text-small text-soft">
        {moving ? (
          <ExpectedBytes weighing={weighing} of={moving} />
        ) : (
          <p role="status">
            {tuning.wanted
              ? tuning.glimpse
                ? 'Draft in sight. Encoding …'
                : 'Encoding …'
              : tuning.before &&
                tuning.before.id !== selected.id &&
                changeWords(tuning.before, selected)}
          </p>
        )}
      </div>
      {tuning.problem && (
        <p role="alert" className="text-over">
          {tuning.problem}
        </p>
      )}
      {usual.map(row)}
      <NumberRow
        label="Pixels sent"
        hint="Fewer pixels, enlarged by the browser, can look better at a tight limit"
        value={Math.round((selected.width_px / full) * 100)}
        least={5}
        most={100}
        step={5}
        unit=" %"
        onTurn={(percent) => turn(selected.settings, pixelsAt(percent))}
        onMove={(percent) =>
          setMoving(percent === null ? null : { ...selected, width_px: pixelsAt(percent) })
        }
      />
      {rare.length > 0 && (
        <details>
          <summary className="cursor-pointer py-1 text-navy">More knobs</summary>
          {GROUPS.map(({ group, title }) => {
            const own = rare.filter((knob) => knob.group === group)
            if (own.length === 0) return null
            return (
              <div
                key={group}
                role="group"
                aria-label={title}
                className="mt-2 space-y-2 border-t border-hair pt-1.5"
              >
                <h3 className="text-tiny text-soft">{title}</h3>
                {own.map(row)}
              </div>
            )
          })}
        </details>
      )}
      <AllFormats weighing={weighing} format={selected.settings.format} />
    </section>
  )
}

/** `12.3 kB lighter, 0.8 points less alike`. */
function changeWords(before: Encode, after: Encode): string {
  const bytes = after.size_bytes - before.size_bytes
  const likeness = after.likeness - before.likeness
  const weight =
    bytes === 0
      ? 'Same bytes'
      : `${sizeWords(Math.abs(bytes))} ${bytes < 0 ? 'lighter' : 'heavier'}`
  const looks =
    Math.abs(likeness) < 0.05
      ? 'as alike as before'
      : `${Math.abs(likeness).toFixed(1)} points ${likeness < 0 ? 'less' : 'more'} alike`
  return `${weight}, ${looks}`
}
