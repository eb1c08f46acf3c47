import type { ReactNode } from 'react'

import type { Size } from '@/ui/hooks/use-size'

import { type Centre, clamped, corner } from './view'

type Props = {
  picture: Size
  pane: Size
  scale: number
  centre: Centre
  background: string
  tag: string | undefined
  isTagAtRight?: boolean
  over?: ReactNode
  children: ReactNode
}

/** A window onto a picture, with a tag that says which. */
export function Pane(props: Props) {
  const { picture, pane, scale, centre, background, tag, isTagAtRight, over, children } = props
  const seen = clamped(centre, picture, pane, scale)
  const at = corner(seen, picture, pane, scale, window.devicePixelRatio)
  return (
    <figure className="relative h-full shrink-0 overflow-clip" style={{ width: pane.width }}>
      <div
        className="absolute top-0 left-0"
        style={{
          width: picture.width * scale,
          height: picture.height * scale,
          transform: `translate(${at.x}px, ${at.y}px)`,
          background,
        }}
      >
        {children}
        {over}
      </div>
      {tag && (
        <figcaption
          className={`absolute bottom-2.5 rounded-sm bg-ink px-2 py-1 text-small text-white ${isTagAtRight ? 'right-2.5' : 'left-2.5'}`}
        >
          {tag}
        </figcaption>
      )}
    </figure>
  )
}
