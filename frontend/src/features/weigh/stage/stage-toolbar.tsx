import { Segments } from '@/ui/fields/segments'

import type { Look } from './use-look'
import type { Mode, Zoom } from './view'

const MODE_OPTIONS = [
  { value: 'side', text: 'Side by side', hint: 'Original left, candidate right (S)' },
  { value: 'wipe', text: 'Wipe', hint: 'One over the other, with a line to move (W)' },
] as const satisfies { value: Mode; text: string; hint: string }[]

const ZOOM_OPTIONS = [
  { value: 'fit', text: 'Fit', hint: 'All of the picture (F)' },
  { value: '1', text: '1:1', hint: 'One picture pixel on one screen pixel (1)' },
  { value: '2', text: '2:1', hint: 'Twice as large, pixels left crisp (2)' },
  { value: '4', text: '4:1', hint: 'Four times as large, pixels left crisp (4)' },
] as const satisfies { value: Zoom; text: string; hint: string }[]

type Props = { look: Look; onChange: (change: Partial<Look>) => void }

/** How two pictures are compared, and how large. */
export function StageToolbar({ look, onChange }: Props) {
  return (
    <div className="flex items-center gap-3.5 px-3.5 text-xs">
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
      <span className="text-soft">
        Hold <kbd className="font-sans font-semibold text-ink">O</kbd> to see the original
      </span>
    </div>
  )
}
