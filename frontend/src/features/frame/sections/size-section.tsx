import type { Weighing, Wire } from '@/api/client'
import { Choice } from '@/ui/fields/choice'
import { Field } from '@/ui/fields/field'
import { Segments } from '@/ui/fields/segments'
import { parseNumber, parsePixels, pixelWords } from '@/words'

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
      {(size.by === 'width' || size.by === 'box') && (
        <PixelField label="Width" value={size.width_px} onEnter={(width_px) => change({ width_px })} />
      )}
      {(size.by === 'height' || size.by === 'box') && (
        <PixelField
          label="Height"
          value={size.height_px}
          onEnter={(height_px) => change({ height_px })}
        />
      )}
      {size.by === 'longest' && (
        <PixelField
          label="Longest side"
          value={size.longest_px}
          onEnter={(longest_px) => change({ longest_px })}
        />
      )}
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
      <p className="text-[11.5px]">
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

type PixelFieldProps = { label: string; value: number | null; onEnter: (value: number) => void }

function PixelField({ label, value, onEnter }: PixelFieldProps) {
  return (
    <Field
      label={label}
      labelClass="w-[108px] text-soft"
      className="w-40"
      text={`${value ?? ''} px`}
      read={parsePixels}
      problem="Write 1 to 16384 pixels."
      onEnter={(text) => onEnter(parsePixels(text) ?? value ?? 1)}
    />
  )
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
