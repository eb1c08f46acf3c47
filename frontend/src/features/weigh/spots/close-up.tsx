import type { Box, Encode, Framed } from '@/api/client'
import { urls } from '@/api/urls'

type Props = { framed: Framed; encodes: Encode[]; box: Box; side: number }

/** The same small area of the original and of encodes, side by side. */
export function CloseUps({ framed, encodes, box, side }: Props) {
  return (
    <span className="flex shrink-0 gap-px">
      {[urls.framedPixels(framed), ...encodes.map(urls.encodedFile)].map((src) => (
        <CloseUp key={src} src={src} framed={framed} box={box} side={side} />
      ))}
    </span>
  )
}

type OneProps = { src: string; framed: Framed; box: Box; side: number }

/** The middle of a box, at most twice as large, filling a square. */
function CloseUp({ src, framed, box, side }: OneProps) {
  const scale = Math.min(Math.max(side / Math.min(box.width_px, box.height_px), 0.75), 2)
  const middle = { x: box.left_px + box.width_px / 2, y: box.top_px + box.height_px / 2 }
  return (
    <span
      aria-hidden
      className="relative block overflow-hidden bg-stage"
      style={{ width: side, height: side }}
    >
      <img
        src={src}
        alt=""
        draggable={false}
        className="absolute max-w-none"
        style={{
          width: framed.width_px * scale,
          height: framed.height_px * scale,
          left: side / 2 - middle.x * scale,
          top: side / 2 - middle.y * scale,
        }}
      />
    </span>
  )
}
