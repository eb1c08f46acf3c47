import type { Weighing } from '@/api/client'
import { ColourField } from '@/ui/fields/colour-field'
import { Field } from '@/ui/fields/field'
import { PixelChoices } from '@/ui/settings/pixel-choices'
import { parseNumber } from '@/words'

import type { FramingEditor } from '../use-framing'

import { Section } from './section'

type Props = { weighing: Weighing; framing: FramingEditor }

const readRadius = (text: string) => parseNumber(text, 0.3, 5)
const readThreshold = (text: string) => parseNumber(text, 0, 50)
const LOOK = { labelClass: 'w-24 text-soft', className: 'w-18' }

/** What edges are sharpened, and how wide. */
function Sharpening({ framing: { sharpen } }: { framing: FramingEditor }) {
  const { value, send } = sharpen
  return (
    <>
      <Field
        label="Radius"
        text={`${value.radius_px} px`}
        read={readRadius}
        problem="0.3 to 5 pixels"
        onEnter={(text) => send({ ...value, radius_px: readRadius(text) ?? 0.7 })}
        {...LOOK}
      />
      <Field
        label="Threshold"
        text={String(value.threshold_codes)}
        read={readThreshold}
        problem="0 to 50 of 255"
        onEnter={(text) => send({ ...value, threshold_codes: readThreshold(text) ?? 0 })}
        {...LOOK}
      />
    </>
  )
}

/** How pixels are made: resampling, colours, and what stands behind transparency. */
export function PixelsSection({ weighing, framing }: Props) {
  const { kernel, light, gamut, background, fills_background } = framing.shown
  return (
    <Section title="Pixels">
      <details>
        <summary className="cursor-pointer py-1 text-navy">
          Resampling, colours, how it sharpens
        </summary>
        <div className="mt-1.5 space-y-1.5">
          <PixelChoices chosen={{ kernel, light, gamut }} onChange={framing.change} />
          <Sharpening framing={framing} />
        </div>
      </details>
      {weighing.source.has_alpha && (
        <>
          <ColourField
            label="Colour behind it"
            hint="What the page shows through transparent parts; JPEG is filled with it"
            value={background}
            onChoice={(to) => framing.change({ background: to })}
          />
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              checked={fills_background}
              onChange={(event) => framing.change({ fills_background: event.target.checked })}
            />
            <span className="text-soft">Fill it in, in every format</span>
          </label>
        </>
      )}
    </Section>
  )
}
