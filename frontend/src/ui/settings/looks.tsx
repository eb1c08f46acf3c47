import { useTerms } from '@/api/queries'

import { Choice } from '../fields/choice'

const BEST = 'best'
/** Where several have no looks in common. */
const NONE = ''

type Props = {
  label?: string
  /** Undefined where several photos have different ones. */
  likeness: number | null | undefined
  placeholder?: string
  onChange: (likeness: number | null) => void
  className?: string
  labelClass?: string
  isLabelHidden?: boolean
}

/** How it has to look, with no more bytes than that takes. */
export function LooksChoice({ label = 'Looks', likeness, placeholder, onChange, ...look }: Props) {
  const terms = useTerms().likeness_levels
  const levels = [
    ...terms.map(({ least, words }) => ({ value: String(least), text: words })),
    { value: BEST, text: 'the best it can' },
  ]
  const value = likeness === undefined ? NONE : likeness === null ? BEST : String(likeness)
  const isListed = levels.some((level) => level.value === value)
  const own = { value, text: value === NONE ? (placeholder ?? 'mixed') : `likeness ${value}` }
  return (
    <Choice
      label={label}
      value={value}
      options={isListed ? levels : [own, ...levels]}
      onChange={(level) => {
        if (level !== NONE) onChange(level === BEST ? null : Number(level))
      }}
      {...look}
    />
  )
}
