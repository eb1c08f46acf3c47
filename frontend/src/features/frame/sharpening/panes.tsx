import { useDrag } from '@use-gesture/react'
import { type CSSProperties, useState } from 'react'

import type { Framed, Sharpen } from '@/api/client'
import { urls } from '@/api/urls'
import { onArrows } from '@/ui/keys'
import { useSize } from '@/ui/hooks/use-size'

import { bounded } from '../picture/crop-model'

const STEP_PX = 40

type PanesProps = { framed: Framed; sharpen: Sharpen; isStale: boolean }

/** The same part twice, one picture pixel on one screen pixel; dragged together. */
export function Panes({ framed, sharpen, isStale }: PanesProps) {
  const [ref, area] = useSize()
  const [middle, setMiddle] = useState({ x: framed.width_px / 2, y: framed.height_px / 2 })
  const [pulled, setPulled] = useState<[number, number]>([0, 0])
  const ratio = window.devicePixelRatio
  const width_px = Math.min(framed.width_px, Math.ceil(((area.width - 4) / 2) * ratio))
  const height_px = Math.min(framed.height_px, Math.ceil(area.height * ratio))
  const start = (at: number, length: number, whole: number) =>
    Math.round(bounded(at - length / 2, 0, whole - length))
  const box = {
    left_px: start(middle.x, width_px, framed.width_px),
    top_px: start(middle.y, height_px, framed.height_px),
    width_px,
    height_px,
  }
  const move = (dx: number, dy: number) =>
    setMiddle({
      x: box.left_px + width_px / 2 - dx * ratio,
      y: box.top_px + height_px / 2 - dy * ratio,
    })
  const bind = useDrag(
    ({ movement: [mx, my], last }) => {
      setPulled(last ? [0, 0] : [mx, my])
      if (last) move(mx, my)
    },
    { pointer: { keys: false } },
  )
  const onKeyDown = onArrows((right, down) => move(-right * STEP_PX, -down * STEP_PX))
  const handlers = { ...bind(), onKeyDown }
  const style = {
    width: width_px / ratio,
    height: height_px / ratio,
    transform: `translate(${pulled[0]}px, ${pulled[1]}px)`,
  }
  const plain = { ...sharpen, amount_percent: 0 }
  const percent = sharpen.amount_percent ?? 0
  return (
    <div
      ref={ref}
      {...handlers}
      tabIndex={0}
      role="group"
      aria-label="Before and after sharpening: drag or use the arrow keys to move"
      className={`grid min-h-0 cursor-grab touch-none grid-cols-2 gap-1 active:cursor-grabbing ${isStale ? 'opacity-60' : ''}`}
    >
      {area.width > 0 && (
        <>
          <Pane src={urls.sharpened(framed, plain, box)} tag="Not sharpened" style={style} />
          <Pane
            src={urls.sharpened(framed, sharpen, box)}
            tag={percent > 0 ? `Sharpened ${percent} %` : 'Sharpening is off'}
            style={style}
          />
        </>
      )}
    </div>
  )
}

type PaneProps = { src: string; tag: string; style: CSSProperties }

function Pane({ src, tag, style }: PaneProps) {
  return (
    <figure className="relative flex min-h-0 justify-center overflow-hidden bg-stage">
      <img src={src} alt={tag} draggable={false} className="max-w-none select-none" style={style} />
      <figcaption className="absolute bottom-1.5 left-1.5 rounded-sm bg-ink px-2 py-0.5 text-tiny text-white">
        {tag}
      </figcaption>
    </figure>
  )
}
