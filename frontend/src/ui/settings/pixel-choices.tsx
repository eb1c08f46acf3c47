import type { Framing } from '@/api/client'
import { Choice } from '@/ui/fields/choice'
import { Segments } from '@/ui/fields/segments'

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

type Chosen = Pick<Framing, 'kernel' | 'light' | 'gamut'>
type Props = { chosen: Chosen; onChange: (changes: Partial<Chosen>) => void }

/** How pixels are made: resampling, and in which colours. */
export function PixelChoices({ chosen, onChange }: Props) {
  return (
    <>
      <Choice
        label="Resample with"
        value={chosen.kernel}
        options={KERNELS}
        onChange={(kernel) => onChange({ kernel })}
      />
      <div className="flex items-center justify-between">
        <span className="text-soft">In</span>
        <Segments
          label="Light"
          value={chosen.light}
          options={LIGHTS}
          onChange={(light) => onChange({ light })}
        />
      </div>
      <Choice
        label="Colours"
        value={chosen.gamut}
        options={GAMUTS}
        onChange={(gamut) => onChange({ gamut })}
      />
    </>
  )
}
