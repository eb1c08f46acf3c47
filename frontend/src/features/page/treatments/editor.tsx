import { type FormEvent, useState } from 'react'

import { api, type Format, type TreatmentFile } from '@/api/client'
import { useTerms } from '@/api/queries'
import { Button } from '@/ui/button'
import { Choice } from '@/ui/fields/choice'
import { DENSITIES } from '@/ui/fields/densities'
import { FIELD } from '@/ui/fields/field'
import { Toggles } from '@/ui/fields/toggles'
import { ColourField } from '@/ui/fields/colour-field'
import { RULES } from '@/ui/settings/variant-rules'
import { PixelChoices } from '@/ui/settings/pixel-choices'
import { MetadataChoice } from '@/ui/settings/metadata-choice'
import { aimOf, aimWords, heldWords } from '@/words'

const NO_VARIANTS = { densities: [], formats: null, rule: 'likeness' as const, limits: [] }

type Props = {
  first: TreatmentFile
  onKeep: (file: TreatmentFile) => Promise<unknown>
  onDone: () => void
}

const SHARPENING = [
  { value: 'auto', text: 'by the reduction' },
  { value: '0', text: 'off' },
  { value: '50', text: '50 %' },
  { value: '100', text: '100 %' },
] as const
const FORMATS = ['jpeg', 'png', 'webp', 'avif'] as const

/** A treatment in fields; nothing changes until it is kept. */
export function Editor({ first, onKeep, onDone }: Props) {
  const terms = useTerms().formats
  const [file, setFile] = useState<TreatmentFile>(first)
  const [aim, setAim] = useState(aimWords(file.aim))
  const [size, setSize] = useState(file.aim.place.size)
  const amount = file.framing.sharpen?.amount_percent
  const sharpening = amount === null ? 'auto' : String(amount ?? 0)
  const variants = { ...NO_VARIANTS, ...file.aim.variants }
  const also = variants.densities.map(String)
  const densities = [...new Set<string>([...DENSITIES.map(({ value }) => value), ...also])]
  const isOwn = (density: string) => Number(density) === (file.aim.place.density ?? 1)
  const held = Object.entries(file.aim.held ?? {}).filter(([, values]) => values)
  const [refusal, setRefusal] = useState('')
  const framing = (changes: Partial<TreatmentFile['framing']>) =>
    setFile({ ...file, framing: { ...file.framing, ...changes } })

  const setHeld = (format: string, values: Record<string, string | number | boolean | null>) =>
    setFile({ ...file, aim: { ...file.aim, held: { ...file.aim.held, [format]: values } } })
  const setVariants = (changes: Partial<typeof variants>) =>
    setFile({ ...file, aim: { ...file.aim, variants: { ...variants, ...changes } } })
  const { sharpen } = file.framing
  const setSharpen = (changes: Partial<typeof sharpen>) =>
    framing({ sharpen: { ...file.framing.sharpen, ...changes } })

  const keep = async () => {
    const place = { ...file.aim.place, size }
    const read = aim === aimWords(file.aim) ? {} : aimOf(await api.readAim(aim))
    const kept = { ...file, aim: { ...file.aim, ...read, place } }
    await onKeep(kept)
    onDone()
  }
  const submit = (event: FormEvent) => {
    event.preventDefault()
    setRefusal('')
    keep().catch((error: Error) => setRefusal(error.message))
  }
  return (
    <li className="border-t border-hair pt-3">
      <form className="space-y-2" onSubmit={submit}>
        <Text label="Name" value={file.name} onChange={(name) => setFile({ ...file, name })} />
        <Text label="Aim" value={aim} onChange={setAim} isWrong={refusal !== ''} />
        {refusal && (
          <p role="alert" className="text-over">
            {refusal}
          </p>
        )}
        <Text label="Size" value={size} onChange={setSize} />
        <Choice
          label="Density"
          value={String(file.aim.place.density ?? 1)}
          options={DENSITIES}
          onChange={(density) =>
            setFile({
              ...file,
              aim: { ...file.aim, place: { ...file.aim.place, density: Number(density) } },
            })
          }
        />
        <p className="flex items-center justify-between gap-2">
          <span className="text-soft">Also at</span>
          <Toggles
            label="Also at"
            values={also.filter((density) => !isOwn(density))}
            options={densities.map((value) => ({
              value,
              text: `${value}×`,
              isDisabled: isOwn(value),
            }))}
            onChange={(chosen) => setVariants({ densities: chosen.map(Number) })}
          />
        </p>
        <p className="flex items-center justify-between gap-2">
          <span className="text-soft">More formats</span>
          <Toggles<Format>
            label="More formats"
            values={variants.formats ?? []}
            options={terms.map(({ format, name }) => ({ value: format, text: name }))}
            onChange={(chosen) => setVariants({ formats: chosen.length > 0 ? chosen : null })}
          />
        </p>
        <Choice
          label="Match"
          value={variants.rule}
          options={RULES}
          onChange={(rule) => setVariants({ rule })}
        />
        <Choice
          label="Sharpening"
          value={sharpening}
          options={
            SHARPENING.some(({ value }) => value === sharpening)
              ? SHARPENING
              : [...SHARPENING, { value: sharpening, text: `${sharpening} %` }]
          }
          onChange={(value) =>
            framing({
              sharpen: {
                ...file.framing.sharpen,
                amount_percent: value === 'auto' ? null : Number(value),
              },
            })
          }
        />
        <Text
          label="Sharpening radius, px"
          value={String(sharpen.radius_px)}
          onChange={(text) => setSharpen({ radius_px: Number(text) || 0 })}
        />
        <Text
          label="Sharpening threshold"
          value={String(sharpen.threshold_codes)}
          onChange={(text) => setSharpen({ threshold_codes: Number(text) || 0 })}
        />
        <PixelChoices
          chosen={{
            kernel: file.framing.kernel,
            light: file.framing.light,
            gamut: file.framing.gamut,
          }}
          onChange={framing}
        />
        <ColourField
          label="Colour behind it"
          hint="What JPEG is filled with where the photo is transparent"
          value={file.framing.background}
          onChoice={(background) => framing({ background })}
        />
        <MetadataChoice
          value={file.framing.metadata ?? 'credit'}
          onChange={(metadata) => framing({ metadata })}
        />
        <fieldset className="flex flex-wrap gap-x-3">
          <legend className="sr-only">Formats</legend>
          {FORMATS.map((format) => (
            <label key={format} className="flex items-center gap-1 uppercase">
              <input
                type="checkbox"
                className="accent-navy"
                checked={file.aim.formats?.includes(format) ?? true}
                onChange={() => setFile({ ...file, aim: withFormat(file.aim, format) })}
              />
              {format}
            </label>
          ))}
        </fieldset>
        {held.map(([format, values]) => (
          <div key={format}>
            <p className="flex items-center justify-between gap-2 text-small">
              <span>{heldWords({ held: { [format]: values } })}</span>
              <Button
                look="quiet"
                onClick={() => {
                  const rest = Object.fromEntries(held.filter(([name]) => name !== format))
                  setFile({ ...file, aim: { ...file.aim, held: rest } })
                }}
              >
                Release
              </Button>
            </p>
            {Object.entries(values ?? {})
              .filter(([, value]) => typeof value === 'number')
              .map(([field, value]) => (
                <Text
                  key={field}
                  label={`${format} ${field.replace('_', ' ')}`}
                  value={String(value)}
                  onChange={(text) => setHeld(format, { ...values, [field]: Number(text) || 0 })}
                />
              ))}
          </div>
        ))}
        {file.single && (
          <p className="flex items-center justify-between gap-2 text-small">
            <span>With its crop, focus point and marks</span>
            <Button look="quiet" onClick={() => setFile({ ...file, single: null })}>
              Release
            </Button>
          </p>
        )}
        <div className="flex gap-2">
          <Button type="submit" look="small" disabled={file.name.trim() === ''}>
            Keep it
          </Button>
          <Button look="quiet" onClick={onDone}>
            Cancel
          </Button>
        </div>
      </form>
    </li>
  )
}

function withFormat(
  aim: TreatmentFile['aim'],
  format: (typeof FORMATS)[number],
): TreatmentFile['aim'] {
  const chosen = new Set(aim.formats ?? FORMATS)
  if (!chosen.delete(format)) chosen.add(format)
  const formats = FORMATS.filter((each) => chosen.has(each))
  return formats.length > 0 ? { ...aim, formats } : aim
}

type TextProps = {
  label: string
  value: string
  isWrong?: boolean
  onChange: (value: string) => void
}

function Text({ label, value, isWrong = false, onChange }: TextProps) {
  return (
    <label className="flex items-center justify-between gap-2">
      <span className="text-soft">{label}</span>
      <input
        className={`${FIELD} w-40`}
        value={value}
        aria-invalid={isWrong}
        onChange={(event) => onChange(event.target.value)}
      />
    </label>
  )
}
