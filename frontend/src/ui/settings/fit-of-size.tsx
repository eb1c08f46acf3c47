import { Segments } from '@/ui/fields/segments'

type Props = {
  /** As the server has read it. */
  size: string
  onEnter: (size: string) => Promise<unknown>
}

const FITS = [
  { value: 'covered', text: 'Cover', hint: 'Fills it; what does not fit in is cut off' },
  { value: 'contained', text: 'Contain', hint: 'Shown whole within it' },
] as const
const CONTAINED = ' contained'

/** How a size of two sides is filled; nothing for others. */
export function FitOfSize({ size, onEnter }: Props) {
  if (!size.includes('×')) return null
  const isContained = size.endsWith(CONTAINED)
  const sides = isContained ? size.slice(0, -CONTAINED.length) : size
  return (
    <Segments
      label="Fit of the size"
      value={isContained ? 'contained' : 'covered'}
      options={FITS}
      onChange={(fit) => void onEnter(`${sides} ${fit}`).catch(() => undefined)}
    />
  )
}
