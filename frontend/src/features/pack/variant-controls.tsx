import {
  api,
  type DeliveredPhoto,
  type Format,
  type Page,
  type Variants,
  type VariantsChange,
} from '@/api/client'
import { useAct, useTerms } from '@/api/queries'
import { readSize } from '@/api/typed'
import { Choice } from '@/ui/fields/choice'
import { DENSITIES } from '@/ui/fields/densities'
import { Field } from '@/ui/fields/field'
import { Toggles } from '@/ui/fields/toggles'
import { Hint } from '@/ui/hint'
import { RULES } from '@/ui/settings/variant-rules'
import { limitWords } from '@/words'

type Props = { photos: DeliveredPhoto[]; page: Page }

/** The densities and formats of some photos, and what each file is made for. */
export function VariantControls({ photos, page }: Props) {
  const act = useAct()
  const formats = useTerms().formats
  if (photos.length === 0) return null
  const ids = photos.map(({ id }) => id)
  const all = photos.map(({ variants }) => variants)
  const own = ids.map((id) => page.photos.find((photo) => photo.id === id)?.aim.place.density)
  const has = (density: string) =>
    all.every(
      ({ densities }, index) =>
        densities.includes(Number(density)) || own[index] === Number(density),
    )
  const isOwnOfAll = (density: string) => own.every((each) => each === Number(density))
  const change = (variants: VariantsChange) => act.mutate(() => api.changeAims(ids, { variants }))
  const chosenFormats = formats.filter(({ format }) =>
    all.every((variants) => variants.formats?.includes(format)),
  )
  const limited = (all[0]?.densities ?? []).filter((density) => has(String(density)))
  const limits = all[0]?.limits ?? []
  const limitAt = (density: number) => {
    const limit = limits.find((each) => each.density === density)
    return limit ? limitWords(limit.limit_bytes) : ''
  }
  const withLimit = (density: number, limit_bytes: number | null) => [
    ...limits.filter((each) => each.density !== density),
    ...(limit_bytes === null ? [] : [{ density, limit_bytes }]),
  ]
  const isMixed = all.some((variants) => !isSame(variants, all[0]))
  const rule = all.every((variants) => variants.rule === all[0]?.rule) ? all[0]?.rule : undefined
  return (
    <>
      <span className="flex items-center gap-2">
        <span className="text-soft">Densities</span>
        <Toggles
          label="Densities"
          values={DENSITIES.map(({ value }) => value).filter(has)}
          options={DENSITIES.map(({ value, text }) =>
            isOwnOfAll(value)
              ? { value, text, isDisabled: true, hint: 'The density of the places' }
              : { value, text },
          )}
          onChange={(chosen) =>
            change({
              densities: chosen.filter((density) => !isOwnOfAll(density)).map(Number),
            })
          }
        />
      </span>
      <Hint words={FORMATS_HINT}>
        <span className="flex items-center gap-2">
          <span className="text-soft">More formats</span>
          <Toggles<Format>
            label="More formats"
            values={chosenFormats.map(({ format }) => format)}
            options={formats.map(({ format, name }) => ({ value: format, text: name }))}
            onChange={(chosen) => change({ formats: chosen.length > 0 ? chosen : null })}
          />
        </span>
      </Hint>
      <Choice
        label="Match"
        className="w-42 py-1 text-small"
        value={rule ?? 'same'}
        options={RULES}
        onChange={(to) => change({ rule: to })}
      />
      {limited.map((density) => (
        <Field
          key={density}
          label={`At most at ${density}×`}
          text={limitAt(density)}
          placeholder="as it comes"
          onEnter={async (text) => {
            const limit_bytes = await readSize(text)
            await act.mutateAsync(() =>
              api.changeAims(ids, { variants: { limits: withLimit(density, limit_bytes) } }),
            )
          }}
          className="w-24 py-0.5 text-small"
        />
      ))}
      {isMixed && <span className="text-small text-soft">some photos differ</span>}
    </>
  )
}

/** Whether two photos have the same variants, in whatever order those were chosen. */
function isSame(one: Variants, other: Variants | undefined): boolean {
  const plain = (variants: Variants | undefined) =>
    JSON.stringify([
      [...(variants?.densities ?? [])].sort(),
      variants?.formats && [...variants.formats].sort(),
      variants?.rule,
      variants?.limits,
    ])
  return plain(one) === plain(other)
}

const FORMATS_HINT =
  'Beside the format that was taken. With none chosen there is one that opens everywhere, where the format that was taken does not.'
