import type { Weighing } from '@/api/client'
import { Field } from '@/ui/fields/field'
import { parseNumber, parsePixels, pixelWords } from '@/words'

import { changedBox, wholeOf } from '../picture/crop-model'
import type { FramingEditor } from '../use-framing'

import { Section } from './section'

type Props = { weighing: Weighing; framing: FramingEditor }

/** The part that is kept, by numbers, and the pixels it becomes. */
export function CropSection({ weighing, framing }: Props) {
  const { plan } = weighing
  return (
    <Section title="Crop">
      <CropNumbers framing={framing} />
      {plan.is_covered && <FocusNumbers framing={framing} />}
      <p className="text-small">
        Keeps <span className="num">{pixelWords(plan.box)}</span>, becomes{' '}
        <b className="num font-semibold">{pixelWords(plan)}</b> px
        {plan.reduction > 1 && <>, {plan.reduction.toFixed(1)} times fewer a side</>}.
      </p>
    </Section>
  )
}

/** The point that stays in sight, in hundredths of the turned original. */
function FocusNumbers({ framing: { focus } }: { framing: FramingEditor }) {
  const field = (label: string, name: 'x' | 'y') => (
    <Field
      label={label}
      labelClass="w-10 text-soft"
      className="w-18"
      text={`${Math.round(focus.value[name] * 100)} %`}
      read={(text) => parseNumber(text, 0, 100)}
      problem="0 to 100 %"
      onEnter={(text) => {
        const percent = parseNumber(text, 0, 100)
        if (percent !== null) focus.send({ ...focus.value, [name]: percent / 100 })
      }}
    />
  )
  return (
    <div role="group" aria-label="Focus point" className="space-y-1.5">
      <p className="text-small text-soft">Stays in sight where the size cuts the photo:</p>
      <div className="grid grid-cols-2 gap-x-4">
        {field('Across', 'x')}
        {field('Down', 'y')}
      </div>
    </div>
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
      className="w-18"
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
