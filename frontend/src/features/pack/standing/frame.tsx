import { useEffect, useRef } from 'react'

import type { Visit } from '@/api/client'

import { type StandingWindow, type Told, toldOf } from './windows'

type Props = {
  visit: Visit | undefined
  size: StandingWindow
  isChosen: boolean
  onChoose: () => void
  onTold: (told: Told) => void
}

/** How high the window is, in pixels as it is drawn. */
const DRAWN_HEIGHT_PX = 460

/**
 * The site in a window of a size, at the density of another screen: a zoomed frame has that density
 * inside, so the browser itself chooses the files. It is drawn small.
 */
export function Frame({ visit, size, isChosen, onChoose, onTold }: Props) {
  const frame = useRef<HTMLIFrameElement>(null)
  const tell = useRef(onTold)
  useEffect(() => {
    tell.current = onTold
  })
  useEffect(() => {
    const hear = (event: MessageEvent) => {
      if (event.source !== frame.current?.contentWindow) return
      const told = toldOf(event.data)
      if (told) tell.current(told)
    }
    window.addEventListener('message', hear)
    return () => window.removeEventListener('message', hear)
  }, [])
  const zoom = size.density / window.devicePixelRatio
  const scale = size.drawn_px / (size.window_css_px * zoom)
  return (
    <div className="shrink-0" style={{ width: size.drawn_px }}>
      <div className="overflow-hidden bg-field" style={{ height: DRAWN_HEIGHT_PX }}>
        <div style={{ transform: `scale(${scale})`, transformOrigin: '0 0' }}>
          {visit && (
            <iframe
              ref={frame}
              key={visit.id}
              src={`${visit.address}frame`}
              title={`The page on a ${size.name.toLowerCase()}`}
              sandbox="allow-scripts"
              tabIndex={-1}
              className="pointer-events-none border-0"
              style={{
                zoom,
                width: size.window_css_px,
                height: DRAWN_HEIGHT_PX / (scale * zoom),
              }}
            />
          )}
        </div>
      </div>
      <button
        type="button"
        aria-pressed={isChosen}
        onClick={onChoose}
        className={`mt-1 w-full truncate py-1 text-left text-small text-ink hover:underline ${isChosen ? 'font-semibold underline' : ''}`}
      >
        {size.name}, {size.window_css_px} px at {size.density}×
      </button>
    </div>
  )
}
