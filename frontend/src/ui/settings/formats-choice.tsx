import type { Format } from '@/api/client'
import { useTerms } from '@/api/queries'
import { formatsWords } from '@/words'

import { Choice } from '../fields/choice'

const BY_PICTURE = 'by the picture'
const MIXED = 'mixed'

type Props = {
  /** Null by the picture, undefined where several photos have different ones. */
  formats: readonly Format[] | null | undefined
  placeholder?: string
  onChange: (formats: Format[] | null) => void
  className?: string
  isLabelHidden?: boolean
}

/** Which formats may win: those that suit each picture, or some. */
export function FormatsChoice({ formats, placeholder, onChange, ...look }: Props) {
  const terms = useTerms().formats
  const all = terms.map(({ format }) => format)
  const universal = terms.filter((each) => each.is_universal).map(({ format }) => format)
  const lists = [all, all.filter((each) => each !== 'png'), universal, ...all.map((each) => [each])]
  const options = [
    { value: BY_PICTURE, text: BY_PICTURE },
    ...lists.map((list) => ({ value: list.join(), text: formatsWords(list, terms) })),
  ]
  const value = formats === undefined ? MIXED : (formats?.join() ?? BY_PICTURE)
  const isListed = options.some((option) => option.value === value)
  const own = { value, text: formats ? formatsWords(formats, terms) : (placeholder ?? MIXED) }
  return (
    <Choice
      label="Formats"
      {...look}
      value={value}
      options={isListed ? options : [own, ...options]}
      onChange={(chosen) => {
        if (chosen === MIXED) return
        onChange(lists.find((list) => list.join() === chosen) ?? null)
      }}
    />
  )
}
