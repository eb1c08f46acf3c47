import type { Weighing, Wire } from '@/api/client'
import { AsItCame } from '@/ui/as-it-came'
import { Choice } from '@/ui/fields/choice'
import { Field } from '@/ui/fields/field'
import { Segments } from '@/ui/fields/segments'
import { Hint } from '@/ui/hint'
import { lengthWords, parseLength, parseNumber, parsePixels, pixelWords } from '@/words'

import { changedBox, wholeOf } from '../picture/crop-model'
import { FITS } from '../places/place-model'
import type { FramingEditor } from '../use-framing'

import { EnlargeNotice } from './enlarge-notice'
import { Section } from './section'

type Size = Wire['Size']

const WAYS = [
  { value: 'place', text: 'By its place' },
  { value: 'width', text: 'Exact width' },
  { value: 'height', text: 'Exact height' },
  { value: 'longest', text: 'Longest side' },
  { value: 'percent', text: 'Percentage' },
  { value: 'box', text: 'Width and height' },
] as const

type Props = { weighing: Weighing; framing: FramingEditor }

/** The part that is kept, by numbers, and the pixels it becomes. */
export function SizeSection({ weighing, framing }: Props) {
  const { plan } = weighing
  const { size, may_enlarge } = framing.shown
  const change = (changes: Partial<Size>) => framing.change({ size: { ...size, ...changes } })
  return (
    <Section title="Crop and size">
      <CropNumbers framing={framing} />
      <Choice
        label="Size"
        value={size.by}
        options={WAYS}
        onChange={(by) => change({ by, ...startOf(by, size, weighing) })}
      />
      <AsItCame size={size} onChoose={change} />
      {(size.by === 'width' || size.by === 'box') && (
        <SideField
          label="Width"
          size={size}
          value={size.width_px}
          onEnter={(width_px) => change({ width_px })}
        />
      )}
      {(size.by === 'height' || size.by === 'box') && (
        <SideField
          label="Height"
          size={size}
          value={size.height_px}
          onEnter={(height_px) => change({ height_px })}
        />
      )}
      {size.by === 'longest' && (
        <SideField
          label="Longest side"
          size={size}
          value={size.longest_px}
          onEnter={(longest_px) => change({ longest_px })}
        />
      )}
      {size.by !== 'place' && size.by !== 'percent' && <Units size={size} change={change} />}
      {size.by === 'percent' && (
        <Field
          label="Percentage"
          labelClass="w-[108px] text-soft"
          className="w-40"
          text={`${size.percent ?? 100} %`}
          read={readPercent}
          problem="Write up to 400 %."
          onEnter={(text) => change({ percent: readPercent(text) })}
        />
      )}
      {size.by === 'box' && (
        <div className="flex items-center justify-between">
          <span className="text-soft">Fills it by</span>
          <Segments
            label="Fit of the size"
            value={size.fit}
            options={FITS}
            onChange={(fit) => change({ fit })}
          />
        </div>
      )}
      {framing.refusal && (
        <EnlargeNotice weighing={weighing} error={framing.refusal} again={framing.repeat} />
      )}
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          checked={may_enlarge}
          onChange={(event) => framing.change({ may_enlarge: event.target.checked })}
        />
        <span className="text-soft">May be enlarged</span>
      </label>
      <p className="text-small">
        Keeps <span className="num">{pixelWords(plan.box)}</span>, becomes{' '}
        <b className="num font-semibold">{pixelWords(plan)}</b> px
        {plan.reduction > 1 && <>, {plan.reduction.toFixed(1)} times fewer a side</>}.
      </p>
    </Section>
  )
}

/** What a way of sizing starts from: the pixels that the photo has now. */
function startOf(by: Size['by'], size: Size, { plan }: Weighing): Partial<Size> {
  const { width_px, height_px } = plan
  switch (by) {
    case 'width':
      return { width_px: size.width_px ?? width_px }
    case 'height':
      return { height_px: size.height_px ?? height_px }
    case 'longest':
      return { longest_px: size.longest_px ?? Math.max(width_px, height_px) }
    case 'percent':
      return { percent: size.percent ?? Math.round(100 / Math.max(1, plan.reduction)) }
    case 'box':
      return { width_px: size.width_px ?? width_px, height_px: size.height_px ?? height_px }
    case 'place':
      return {}
  }
}

function readPercent(text: string): number | null {
  return parseNumber(text, 0.1, 400)
}

type SideFieldProps = {
  label: string
  size: Size
  value: number | null
  onEnter: (value: number) => void
}

/** A side, in pixels or as a length. */
function SideField({ label, size, value, onEnter }: SideFieldProps) {
  const { unit, dpi } = size
  const read = (text: string) => parseLength(text, unit, dpi)
  return (
    <Field
      label={label}
      labelClass="w-[108px] text-soft"
      className="w-40"
      text={lengthWords(value ?? 1, unit, dpi)}
      read={read}
      problem="Write 1 to 16384 pixels, or a length like 10 cm or 4 in."
      onEnter={(text) => onEnter(read(text) ?? value ?? 1)}
    />
  )
}

const UNITS = [
  { value: 'px', text: 'px', hint: 'Pixels: what a screen shows' },
  { value: 'cm', text: 'cm', hint: 'Centimetres, at so many dots per inch' },
  { value: 'in', text: 'in', hint: 'Inches, at so many dots per inch' },
] as const

const NO_EFFECT =
  'Dots per inch only say how many pixels a length has. On a screen they change nothing: ' +
  '1200 pixels are 1200 pixels at any dpi. CSS counts 96 to an inch, print takes about 300.'

/** The unit in which sides are read, and for lengths the dots per inch. */
function Units({ size, change }: { size: Size; change: (changes: Partial<Size>) => void }) {
  return (
    <div className="flex min-h-[27px] items-center justify-between gap-2">
      <Segments
        label="Unit of the sides"
        value={size.unit}
        options={UNITS}
        onChange={(unit) => change({ unit })}
      />
      {size.unit !== 'px' && (
        <Hint words={NO_EFFECT}>
          <div>
            <Field
              label="at"
              className="w-[86px]"
              text={`${size.dpi} dpi`}
              read={readDpi}
              problem="Write 1 to 2400 dpi."
              onEnter={(text) => change({ dpi: readDpi(text) ?? size.dpi })}
            />
          </div>
        </Hint>
      )}
    </div>
  )
}

function readDpi(text: string): number | null {
  return parseNumber(text.replace(/dpi\s*$/i, ''), 1, 2400)
}

/** The crop in pixels of the turned original. */
function CropNumbers({ framing }: { framing: FramingEditor }) {
  const { crop, picture, aspect } = framing
  const box = crop.value ?? wholeOf(picture)
  const field = (label: string, name: keyof typeof box) => (
    <Field
      label={label}
      labelClass="w-10 text-soft"
      className="w-[70px]"
      text={String(box[name])}
      read={(text) => parsePixels(text, 0, 65_535)}
      problem="Whole pixels"
      onEnter={(text) => {
        const value = parsePixels(text, 0, 65_535)
        if (value !== null) crop.send(changedBox(box, { [name]: value }, picture, aspect))
      }}
    />
  )
  return (
    <div role="group" aria-label="Crop in pixels" className="grid grid-cols-2 gap-x-4 gap-y-1.5">
      {field('Left', 'left_px')}
      {field('Top', 'top_px')}
      {field('Wide', 'width_px')}
      {field('High', 'height_px')}
    </div>
  )
}
