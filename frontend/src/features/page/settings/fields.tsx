import type { Format, MetadataPolicy } from '@/api/client'
import { readSize } from '@/api/typed'
import { Choice } from '@/ui/fields/choice'
import { DENSITIES } from '@/ui/fields/densities'
import { Field } from '@/ui/fields/field'
import { FormatsChoice } from '@/ui/settings/formats-choice'
import { LooksChoice } from '@/ui/settings/looks'
import { MetadataChoice } from '@/ui/settings/metadata-choice'
import { limitWords } from '@/words'

/** What is shown of settings; undefined is what several photos have different. */
export type Shown = {
  size?: string | undefined
  density?: number | undefined
  limit_bytes?: number | null | undefined
  likeness?: number | null | undefined
  formats?: readonly Format[] | null | undefined
  metadata?: MetadataPolicy
}

export type Changes = {
  size?: string
  density?: number
  limit_bytes?: number | null
  likeness?: number | null
  formats?: Format[] | null
  metadata?: MetadataPolicy
}

type Props = {
  shown: Shown
  onChange: (changes: Changes) => Promise<unknown>
  /** Where there is little room, choices go without their labels. */
  isShort?: boolean
}

/** Size, density, the most that it may weigh, looks, formats and metadata, in a row. */
export function SettingsFields({ shown, onChange, isShort = false }: Props) {
  const change = (changes: Changes) => void onChange(changes).catch(() => undefined)
  const density = DENSITIES.find(({ value }) => Number(value) === shown.density)?.value ?? ''
  return (
    <>
      <Field
        label="Size"
        text={shown.size ?? ''}
        placeholder={MIXED}
        onEnter={(size) => onChange({ size })}
        className="w-23 font-semibold"
      />
      <Choice
        label="Density"
        isLabelHidden
        className="-ml-1 w-14"
        value={density}
        options={density === '' ? [{ value: '', text: '' }, ...DENSITIES] : DENSITIES}
        onChange={(to) => change({ density: Number(to) })}
      />
      <Field
        label="At most"
        text={shown.limit_bytes ? limitWords(shown.limit_bytes) : ''}
        placeholder={shown.limit_bytes === undefined ? MIXED : 'any size'}
        onEnter={async (text) => onChange({ limit_bytes: await readSize(text) })}
        className="w-18 font-semibold"
      />
      <LooksChoice
        likeness={shown.likeness}
        isLabelHidden={isShort}
        className="w-36"
        onChange={(likeness) => change({ likeness })}
      />
      <FormatsChoice
        formats={shown.formats}
        isLabelHidden={isShort}
        className="w-30"
        onChange={(formats) => change({ formats })}
      />
      {shown.metadata && (
        <MetadataChoice
          className="w-23"
          value={shown.metadata}
          onChange={(metadata) => change({ metadata })}
        />
      )}
    </>
  )
}

const MIXED = 'mixed'
