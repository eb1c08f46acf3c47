import { Field } from '../fields/field'
import { Segments } from '../fields/segments'

type Props = {
  label?: string
  isLabelHidden?: boolean
  /** As it was typed. */
  size: string
  /** Sends what was typed, which only the server reads. */
  onEnter: (size: string) => Promise<unknown>
  className?: string
  labelClass?: string
  placeholder?: string
  after?: React.ReactNode
}

/** How large a photo stands, in all the ways that people say it. */
export function SizeField({ label = 'Size', size, ...rest }: Props) {
  return <Field label={label} text={size} {...rest} />
}

const FITS = [
  { value: 'covered', text: 'Cover', hint: 'Fills it; what does not fit in is cut off' },
  { value: 'contained', text: 'Contain', hint: 'Shown whole within it' },
] as const
const CONTAINED = ' contained'

/** How a size of two sides is filled; nothing for others. */
export function FitOfSize({ label, size, onEnter }: { label: string } & Props) {
  if (!size.includes('×')) return null
  const isContained = size.endsWith(CONTAINED)
  const sides = isContained ? size.slice(0, -CONTAINED.length) : size
  return (
    <Segments
      label={label}
      value={isContained ? 'contained' : 'covered'}
      options={FITS}
      onChange={(fit) => void onEnter(`${sides} ${fit}`).catch(() => undefined)}
    />
  )
}
