import type { Weighing } from '@/api/client'
import { Choice } from '@/ui/fields/choice'
import { ColourField } from '@/ui/fields/colour-field'
import { Segments } from '@/ui/fields/segments'

import type { FramingEditor } from '../use-framing'

import { Section } from './section'

const KERNELS = [
  { value: 'lanczos3', text: 'Lanczos 3' },
  { value: 'mitchell', text: 'Mitchell' },
  { value: 'catmull-rom', text: 'Catmull-Rom' },
  { value: 'linear', text: 'Linear' },
  { value: 'nearest', text: 'Nearest' },
] as const

const LIGHTS = [
  {
    value: 'linear',
    text: 'Linear light',
    hint: 'Mixes light as the eye meets it: fine patterns keep their brightness',
  },
  {
    value: 'gamma',
    text: 'Gamma space',
    hint: 'Mixes coded values, as older tools do: fine bright lines grow darker',
  },
] as const

const GAMUTS = [
  { value: 'srgb', text: 'sRGB, as every screen' },
  { value: 'display-p3', text: 'Display P3, tagged' },
] as const

type Props = { weighing: Weighing; framing: FramingEditor }

/** How pixels are made: resampling, colours, and what stands behind transparency. */
export function PixelsSection({ weighing, framing }: Props) {
  const { kernel, light, gamut, background, fills_background } = framing.shown
  return (
    <Section title="Pixels">
      <Choice
        label="Resample with"
        value={kernel}
        options={KERNELS}
        onChange={(to) => framing.change({ kernel: to })}
      />
      <div className="flex items-center justify-between">
        <span className="text-soft">In</span>
        <Segments
          label="Light"
          value={light}
          options={LIGHTS}
          onChange={(to) => framing.change({ light: to })}
        />
      </div>
      <Choice
        label="Colours"
        value={gamut}
        options={GAMUTS}
        onChange={(to) => framing.change({ gamut: to })}
      />
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
