import { useDrag } from '@use-gesture/react'
import { Slider } from 'radix-ui'
import { type KeyboardEvent as ReactKeyboardEvent, type ReactNode, useRef, useState } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'

import { type Encode, urls, type Wire } from '@/api/client'
import { UNLESS_TYPING } from '@/ui/keys'
import { Segments } from '@/ui/segments'
import { type Size, useSize } from '@/ui/use-size'
import { encodeName, pixelWords, sizeWords } from '@/words'

import { Picture } from './picture'
import { useLook } from './use-look'
import {
  type Centre,
  clamped,
  corner,
  dragged,
  MIDDLE,
  type Mode,
  nextZoom,
  scaleOf,
  type Zoom,
} from './view'

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

const THUMB_PX = 24
const STEP_PX = 60
const ARROWS: Record<string, [number, number]> = {
  ArrowLeft: [STEP_PX, 0],
  ArrowRight: [-STEP_PX, 0],
  ArrowUp: [0, STEP_PX],
  ArrowDown: [0, -STEP_PX],
}

type Props = {
  framed: Wire['FramedValue']
  candidate: Encode | undefined
  isDraft: boolean
  against: Encode | undefined
  background: string
}

/** The original and a candidate at the same spot and zoom. */
export function Stage({ framed, candidate, isDraft, against, background }: Props) {
  const [look, setLook] = useLook()
  const [centre, setCentre] = useState(MIDDLE)
  const [wipe, setWipe] = useState(50)
  const [showsOriginal, setShowsOriginal] = useState(false)
  const [ref, area] = useSize()
  const { mode, zoom } = look

  const picture: Size = { width: framed.width_px, height: framed.height_px }
  const pane: Size = mode === 'side' ? { ...area, width: (area.width - 2) / 2 } : area
  const scale = scaleOf(zoom, picture, pane, window.devicePixelRatio)
  const move = (dx: number, dy: number) =>
    setCentre((at) => {
      const from = clamped(at, picture, pane, scale)
      return clamped(dragged(from, dx, dy, picture, scale), picture, pane, scale)
    })

  const setZoom = (to: Zoom) => setLook({ zoom: to })
  useHotkeys('s', () => setLook({ mode: 'side' }), UNLESS_TYPING)
  useHotkeys('w', () => setLook({ mode: 'wipe' }), UNLESS_TYPING)
  useHotkeys('f', () => setZoom('fit'), UNLESS_TYPING)
  useHotkeys(['1', '2', '4'], (event) => setZoom(event.key as Zoom), UNLESS_TYPING)
  useHotkeys('o', (event) => setShowsOriginal(event.type === 'keydown'), {
    ...UNLESS_TYPING,
    keydown: true,
    keyup: true,
  })
  const bindDrag = useDrag(({ delta: [dx, dy] }) => move(dx, dy), { pointer: { keys: false } })
  const bindWheel = useWheelZoom((by) => setZoom(nextZoom(zoom, by)))
  const onKeyDown = (event: ReactKeyboardEvent) => {
    const by = ARROWS[event.key]
    if (!by || event.target !== event.currentTarget) return
    event.preventDefault()
    move(...by)
  }

  const view = { picture, pane, scale, centre, background }
  const crisp = scale * window.devicePixelRatio > 1
  const original = (
    <Picture
      src={urls.framedPixels(framed.id)}
      alt="Original, framed"
      sent={picture}
      place={picture}
      crisp={crisp}
    />
  )
  const pictureOf = (encode: Encode, role: string) => (
    <Picture
      src={urls.encodedFile(encode.id)}
      alt={`${role}, ${encodeName(encode)}`}
      sent={{ width: encode.width_px, height: encode.height_px }}
      place={picture}
      crisp={crisp}
    />
  )
  const shown = candidate && !showsOriginal && pictureOf(candidate, 'Candidate')
  const originalTag = `Original, framed to ${pixelWords(framed)}`
  const candidateTag =
    shown && candidate ? `${isDraft ? 'Draft: ' : ''}${tagOf(candidate)}` : originalTag
  const left = against && !showsOriginal ? pictureOf(against, 'Pinned') : original
  const leftTag = against && !showsOriginal ? `Pinned ${tagOf(against)}` : originalTag

  return (
    <section aria-label="Stage" className="grid min-h-0 grid-rows-[40px_1fr]">
      <div className="flex items-center gap-3.5 px-3.5 text-xs">
        <Segments
          label="Compare"
          value={mode}
          options={MODE_OPTIONS}
          onChange={(to) => setLook({ mode: to })}
        />
        <Segments label="Zoom" value={zoom} options={ZOOM_OPTIONS} onChange={setZoom} />
        <span className="text-soft">
          Hold <kbd className="font-sans font-semibold text-ink">O</kbd> to see the original
        </span>
      </div>
      <div
        ref={ref}
        {...bindDrag()}
        {...bindWheel}
        onKeyDown={onKeyDown}
        tabIndex={0}
        role="group"
        aria-label="Pictures: drag or use the arrow keys to move"
        className="relative flex min-h-0 cursor-grab touch-none gap-0.5 overflow-hidden bg-stage focus-visible:-outline-offset-2 active:cursor-grabbing"
      >
        {area.width > 0 && mode === 'side' && (
          <>
            <Pane {...view} tag={leftTag}>
              {left}
            </Pane>
            <Pane {...view} tag={candidateTag}>
              {shown || original}
            </Pane>
          </>
        )}
        {area.width > 0 && mode === 'wipe' && (
          <>
            <Pane {...view} tag={leftTag}>
              {left}
            </Pane>
            {shown && (
              <div className="absolute inset-0" style={{ clipPath: `inset(0 0 0 ${wipeLineAt(wipe)})` }}>
                <Pane {...view} tag={candidateTag} tagAtRight>
                  {shown}
                </Pane>
              </div>
            )}
            <WipeLine value={wipe} height={area.height} onChange={setWipe} />
          </>
        )}
      </div>
    </section>
  )
}

function tagOf(encode: Encode): string {
  return `${encodeName(encode)}, ${sizeWords(encode.size_bytes)}, ${pixelWords(encode)}`
}

type PaneProps = {
  picture: Size
  pane: Size
  scale: number
  centre: Centre
  background: string
  tag: string
  tagAtRight?: boolean
  children: ReactNode
}

function Pane({ picture, pane, scale, centre, background, tag, tagAtRight, children }: PaneProps) {
  const seen = clamped(centre, picture, pane, scale)
  const at = corner(seen, picture, pane, scale, window.devicePixelRatio)
  return (
    <figure className="relative h-full shrink-0 overflow-hidden" style={{ width: pane.width }}>
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
      </div>
      <figcaption
        className={`absolute bottom-2.5 rounded-sm bg-ink px-2 py-1 text-[11.5px] text-white ${tagAtRight ? 'right-2.5' : 'left-2.5'}`}
      >
        {tag}
      </figcaption>
    </figure>
  )
}

type WipeProps = { value: number; height: number; onChange: (value: number) => void }

function WipeLine({ value, height, onChange }: WipeProps) {
  return (
    <Slider.Root
      value={[value]}
      onValueChange={([to]) => to !== undefined && onChange(to)}
      onPointerDown={(event) => event.stopPropagation()}
      className="pointer-events-none absolute inset-0 flex touch-none select-none"
    >
      <Slider.Track className="h-full w-full" />
      <Slider.Thumb
        aria-label="Wipe: share of the original, in percent"
        style={{ height, width: THUMB_PX }}
        className="pointer-events-auto flex cursor-ew-resize items-center justify-center"
      >
        <span className="h-full w-0.5 bg-white" />
        <svg
          viewBox="0 0 24 24"
          className="absolute size-6 rounded-sm border border-ink bg-white stroke-ink"
          aria-hidden
        >
          <path d="M9 8l-4 4l4 4M15 8l4 4l-4 4" fill="none" strokeWidth={1.5} />
        </svg>
      </Slider.Thumb>
    </Slider.Root>
  )
}

/** Where the line stands: a slider's thumb stays inside its track at both ends. */
function wipeLineAt(percent: number): string {
  return `calc(${percent}% + ${THUMB_PX * (0.5 - percent / 100)}px)`
}

/** One zoom step for each push of the wheel, however many events it sends. */
function useWheelZoom(onStep: (by: 1 | -1) => void) {
  const quietUntil = useRef(0)
  return {
    onWheel: (event: { deltaY: number; timeStamp: number }) => {
      const isNewPush = event.timeStamp > quietUntil.current
      quietUntil.current = event.timeStamp + 150
      if (isNewPush && event.deltaY) onStep(event.deltaY < 0 ? 1 : -1)
    },
  }
}
