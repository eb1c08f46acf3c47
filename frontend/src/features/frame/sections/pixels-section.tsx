import type { Weighing } from '@/api/client'
import { ColourField } from '@/ui/fields/colour-field'
import { PixelChoices } from '@/ui/settings/pixel-choices'

import type { FramingEditor } from '../use-framing'

import { Section } from './section'

type Props = { weighing: Weighing; framing: FramingEditor }

/** How pixels are made: resampling, colours, and what stands behind transparency. */
export function PixelsSection({ weighing, framing }: Props) {
  const { kernel, light, gamut, background, fills_background } = framing.shown
  return (
    <Section title="Pixels">
      <PixelChoices chosen={{ kernel, light, gamut }} onChange={framing.change} />
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
