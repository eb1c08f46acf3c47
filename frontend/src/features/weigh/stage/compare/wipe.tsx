import { useDrag } from '@use-gesture/react'
import { type ReactNode, useRef, useState } from 'react'

import { alone } from '@/ui/alone'
import { onArrows } from '@/ui/keys'
import type { Size } from '@/ui/hooks/use-size'

import { Field } from '@/ui/fields/field'
import { parseNumber } from '@/words'

import { StagePanel } from '../stage-panel'
import {
  isLying,
  type Line,
  moved,
  nearest,
  offset,
  partAfter,
  type Point,
  pointAt,
  shareAlong,
  UPRIGHT,
} from './line-model'

const STEP = 0.02
/** What moves further is no click. */
const CLICK_PX = 4

type Props = { pane: Size; under: ReactNode; over: ReactNode }

/** One picture over another, up to a line that can lie at any angle. */
export function Wipe({ pane, under, over }: Props) {
  const [line, setLine] = useState<Line>(UPRIGHT)
  const pressed = useRef<Point | null>(null)
  const place = (at: Point) => setLine(moved(line, offset(line, at, pane), pane))
  const middle = { x: pane.width / 2, y: pane.height / 2 }
  const across = shareAlong(line, pane)
  return (
    <>
      {under}
      <div className="absolute inset-0" style={{ clipPath: partAfter(line, pane) }}>
        {over}
      </div>
      <div
        className="absolute inset-0"
        role="presentation"
        onPointerDown={({ clientX, clientY }) => {
          pressed.current = { x: clientX, y: clientY }
        }}
        onClick={({ clientX, clientY, currentTarget }) => {
          const from = pressed.current
          const { left, top } = currentTarget.getBoundingClientRect()
          if (from && Math.hypot(clientX - from.x, clientY - from.y) < CLICK_PX) {
            place({ x: clientX - left, y: clientY - top })
          }
        }}
      />
      <WipeLine line={line} pane={pane} onChange={setLine} />
      <StagePanel label="Line of the wipe" at="corner">
        <Field
          label="Line at"
          text={`${Math.round(across * 100)} %`}
          read={(text) => parseNumber(text, 0, 100)}
          problem="0 to 100 %"
          className="w-16 py-0.5 text-right text-small"
          onEnter={(text) => {
            const share = parseNumber(text, 0, 100)
            if (share === null) return
            place(
              isLying(line)
                ? { x: middle.x, y: (share / 100) * pane.height }
                : { x: (share / 100) * pane.width, y: middle.y },
            )
          }}
        />
      </StagePanel>
    </>
  )
}

type LineProps = { line: Line; pane: Size; onChange: (line: Line) => void }

/** The line: a tab at each end turns it, and the line itself moves it. */
function WipeLine({ line, pane, onChange }: LineProps) {
  const from = pointAt(line.from, pane)
  const to = pointAt(line.to, pane)
  const bind = useDrag(({ delta: [x, y] }) => onChange(moved(line, { x, y }, pane)), {
    pointer: { keys: false },
  })
  const ends = `M${from.x} ${from.y}L${to.x} ${to.y}`
  return (
    <>
      <svg className="pointer-events-none absolute inset-0 size-full" aria-hidden>
        <path d={ends} className="fill-none stroke-ink" strokeWidth={3} />
        <path d={ends} className="fill-none stroke-white" strokeWidth={1} strokeDasharray="7 3" />
        <path
          {...alone(bind())}
          d={ends}
          className="pointer-events-auto cursor-move touch-none fill-none stroke-transparent"
          strokeWidth={14}
        />
      </svg>
      <End
        name="first"
        at={line.from}
        pane={pane}
        onMove={(at) => onChange({ ...line, from: at })}
      />
      <End name="second" at={line.to} pane={pane} onMove={(at) => onChange({ ...line, to: at })} />
    </>
  )
}

type EndProps = { name: string; at: number; pane: Size; onMove: (at: number) => void }

/** An end of the line: a tab that slides along the border. */
function End({ name, at, pane, onMove }: EndProps) {
  const { x, y } = pointAt(at, pane)
  const isLevel = Math.floor(at) % 2 === 0
  const bind = useDrag(
    ({ event, currentTarget }) => {
      const around = (currentTarget as HTMLElement).parentElement?.getBoundingClientRect()
      const pointer = event as PointerEvent
      if (!around) return
      onMove(nearest({ x: pointer.clientX - around.x, y: pointer.clientY - around.y }, pane))
    },
    { pointer: { keys: false } },
  )
  return (
    <div
      {...alone(bind())}
      role="slider"
      tabIndex={0}
      aria-label={`Wipe, ${name} end of the line`}
      aria-valuemin={0}
      aria-valuemax={400}
      aria-valuenow={Math.round(at * 100)}
      onKeyDown={(event) => {
        const side = Math.floor(at)
        onArrows((right, down) => {
          const along = side % 2 === 0 ? right : down
          onMove((at + along * STEP * (side < 2 ? 1 : -1) + 4) % 4)
        })(event)
      }}
      style={{
        left: Math.min(Math.max(x - (isLevel ? 22 : 6), 0), pane.width - (isLevel ? 44 : 12)),
        top: Math.min(Math.max(y - (isLevel ? 6 : 22), 0), pane.height - (isLevel ? 12 : 44)),
        width: isLevel ? 44 : 12,
        height: isLevel ? 12 : 44,
      }}
      className="absolute cursor-pointer touch-none rounded-sm border border-ink bg-sheet hover:bg-wash"
    />
  )
}
