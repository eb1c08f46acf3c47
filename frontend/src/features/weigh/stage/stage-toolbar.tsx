import { useTerms } from '@/api/queries'
import { Button } from '@/ui/button'
import { Segments } from '@/ui/fields/segments'
import { Hint } from '@/ui/hint'

import type { Look } from './use-look'
import type { Mode, Zoom } from './view'

const MODE_OPTIONS = [
  { value: 'side', text: 'Side by side', hint: 'Original left, candidate right (S)' },
  { value: 'wipe', text: 'Wipe', hint: 'One over the other, up to a line at any angle (W)' },
  { value: 'blink', text: 'Blink', hint: 'One after the other in the same place (B)' },
  { value: 'difference', text: 'Difference', hint: 'How far they are apart, amplified (D)' },
] as const satisfies { value: Mode; text: string; hint: string }[]

const ZOOM_OPTIONS = [
  { value: 'fit', text: 'Fit', hint: 'All of the picture (F)' },
  { value: '1', text: '1:1', hint: 'One picture pixel on one screen pixel (1)' },
  { value: '2', text: '2:1', hint: 'Twice as large, pixels left crisp (2)' },
  { value: '4', text: '4:1', hint: 'Four times as large, pixels left crisp (4)' },
] as const satisfies { value: Zoom; text: string; hint: string }[]

type Props = {
  look: Look
  isMarking: boolean
  onMarking: () => void
  onChange: (change: Partial<Look>) => void
}

/** How two pictures are compared, and how large. */
export function StageToolbar({ look, isMarking, onMarking, onChange }: Props) {
  const { damage_kinds } = useTerms()
  return (
    <div className="flex min-h-10 min-w-0 flex-wrap items-center gap-x-2 gap-y-1 px-3.5 py-1 text-small whitespace-nowrap">
      <Segments
        label="Compare"
        value={look.mode}
        options={MODE_OPTIONS}
        onChange={(mode) => onChange({ mode })}
      />
      <Segments
        label="Zoom"
        value={look.zoom}
        options={ZOOM_OPTIONS}
        onChange={(zoom) => onChange({ zoom })}
      />
      <Hint words="Lays one kind of damage over the candidate">
        <select
          aria-label="Show damage"
          value={look.overlay ?? ''}
          onChange={(event) => onChange({ overlay: event.target.value || null })}
          className="w-26 rounded-md border border-line bg-sheet px-1 py-1"
        >
          <option value="">No overlay</option>
          {damage_kinds.map(({ kind, name, sentence }) => (
            <option key={kind} value={kind} title={sentence}>
              {name}
            </option>
          ))}
        </select>
      </Hint>
      <Button
        look="small"
        aria-pressed={isMarking}
        hint="Marks an area that matters, or that does not (M)"
        onClick={onMarking}
      >
        Mark
      </Button>
    </div>
  )
}
