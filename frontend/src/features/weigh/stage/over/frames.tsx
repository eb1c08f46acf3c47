import type { Box } from '@/api/client'

import { boxStyle } from '../view'

type Frame = { box: Box; name?: string | undefined; look: 'spot' | 'matters' | 'ignored' }
type Props = { frames: Frame[]; scale: number }

const LOOKS = {
  spot: 'border-white outline-ink',
  matters: 'border-white outline-navy',
  ignored: 'border-white outline-ink border-dashed',
}

/** Frames over a picture: the spot that is looked at, and areas that were marked. */
export function Frames({ frames, scale }: Props) {
  return frames.map(({ box, name, look }) => (
    <div
      key={`${look} ${box.left_px} ${box.top_px} ${box.width_px}`}
      aria-hidden
      className={`pointer-events-none absolute border outline ${LOOKS[look]}`}
      style={boxStyle(box, scale)}
    >
      {name && (
        <span className="absolute bottom-full left-[-2px] mb-0.5 bg-sheet px-1 text-tiny font-semibold whitespace-nowrap text-ink">
          {name}
        </span>
      )}
    </div>
  ))
}
