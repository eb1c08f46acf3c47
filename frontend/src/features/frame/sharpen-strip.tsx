import { useDrag } from '@use-gesture/react'
import { type KeyboardEvent, useState } from 'react'

import { type Sharpen, urls, type Weighing, type Wire } from '@/api/client'
import { Button } from '@/ui/button'
import { Dial } from '@/ui/dial'
import { Field } from '@/ui/field'
import { useSize } from '@/ui/use-size'
import { parseNumber, pixelWords } from '@/words'

import { bounded } from './crop-model'
import type { FramingDesk } from './use-framing'

const MOST_PERCENT = 200
const STEP_PX = 40
const ARROWS: Record<string, [number, number]> = {
  ArrowLeft: [STEP_PX, 0],
  ArrowRight: [-STEP_PX, 0],
  ArrowUp: [0, STEP_PX],
  ArrowDown: [0, -STEP_PX],
}

type Props = { weighing: Weighing; framing: FramingDesk }

/** Sharpening, judged at actual pixels beside what it comes from. */
export function SharpenStrip({ weighing, framing }: Props) {
  const { plan } = weighing
  const framed = useLatest(weighing.framed)
  const { value: sharpen, show, send } = framing.sharpen
  const isAutomatic = sharpen.amount_percent === null
  const amount = sharpen.amount_percent ?? plan.sharpen.amount_percent ?? 0
  const readAmount = (text: string) => parseNumber(text, 0, 300)
  const readRadius = (text: string) => parseNumber(text, 0.3, 5)
  const readThreshold = (text: string) => parseNumber(text, 0, 50)
  return (
    <section
      aria-label="Sharpening"
      className="grid min-h-0 grid-rows-[auto_minmax(0,1fr)] border-t border-line bg-sheet px-3 pt-1.5 pb-3"
    >
      <div className="mb-1.5 flex flex-wrap items-center gap-x-3 gap-y-1 text-xs">
        <h2 className="font-semibold">At actual pixels, {pixelWords(plan)}</h2>
        <div className="ml-auto flex items-center gap-2">
          <span className="text-soft">Sharpen</span>
          <Dial
            label="Sharpen, in percent"
            value={Math.min(amount, MOST_PERCENT)}
            min={0}
            max={MOST_PERCENT}
            step={5}
            valueText={`${amount} %`}
            className="w-28"
            onChange={(to) => show({ ...sharpen, amount_percent: to })}
            onCommit={(to) => send({ ...sharpen, amount_percent: to })}
          />
          <Field
            label="Amount"
            isLabelHidden
            className="w-14 text-right"
            text={`${amount} %`}
            read={readAmount}
            problem="0 to 300 %"
            onEnter={(text) => send({ ...sharpen, amount_percent: readAmount(text) ?? 0 })}
          />
          <Button
            look="small"
            aria-pressed={isAutomatic}
            title="As much as the reduction takes away"
            className="aria-pressed:border-ink aria-pressed:bg-wash"
            onClick={() => send({ ...sharpen, amount_percent: isAutomatic ? amount : null })}
          >
            Automatic
          </Button>
          <Field
            label="Radius"
            className="w-16 text-right"
            text={`${sharpen.radius_px} px`}
            read={readRadius}
            problem="0.3 to 5 pixels"
            onEnter={(text) => send({ ...sharpen, radius_px: readRadius(text) ?? 0.7 })}
          />
          <Field
            label="Threshold"
            className="w-10 text-right"
            text={String(sharpen.threshold_codes)}
            read={readThreshold}
            problem="0 to 50 of 255"
            onEnter={(text) => send({ ...sharpen, threshold_codes: readThreshold(text) ?? 0 })}
          />
        </div>
      </div>
      {framed ? (
        <Panes
          key={`${framed.width_px} ${framed.height_px}`}
          framed={framed}
          sharpen={{ ...sharpen, amount_percent: amount }}
          isStale={weighing.framed === null}
        />
      ) : (
        <p role="status" className="flex items-center justify-center bg-stage text-white">
          Framing …
        </p>
      )}
    </section>
  )
}

/** The last value that was there: what is shown until the next one is made. */
function useLatest<T>(value: T | null): T | null {
  const [latest, setLatest] = useState(value)
  if (value !== null && value !== latest) setLatest(value)
  return value ?? latest
}

type PanesProps = { framed: Wire['FramedValue']; sharpen: Sharpen; isStale: boolean }

/** The same part twice, one picture pixel on one screen pixel; dragged together. */
function Panes({ framed, sharpen, isStale }: PanesProps) {
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
  const onKeyDown = (event: KeyboardEvent) => {
    const by = ARROWS[event.key]
    if (!by) return
    event.preventDefault()
    move(...by)
  }
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
      {...bind()}
      onKeyDown={onKeyDown}
      tabIndex={0}
      role="group"
      aria-label="Before and after sharpening: drag or use the arrow keys to move"
      className={`grid min-h-0 cursor-grab touch-none grid-cols-2 gap-1 active:cursor-grabbing ${isStale ? 'opacity-60' : ''}`}
    >
      {area.width > 0 && (
        <>
          <Pane src={urls.sharpened(framed.id, plain, box)} tag="Not sharpened" style={style} />
          <Pane
            src={urls.sharpened(framed.id, sharpen, box)}
            tag={percent > 0 ? `Sharpened ${percent} %` : 'Sharpening is off'}
            style={style}
          />
        </>
      )}
    </div>
  )
}

type PaneProps = { src: string; tag: string; style: React.CSSProperties }

function Pane({ src, tag, style }: PaneProps) {
  return (
    <figure className="relative flex min-h-0 justify-center overflow-hidden bg-stage">
      <img src={src} alt={tag} draggable={false} className="max-w-none select-none" style={style} />
      <figcaption className="absolute bottom-1.5 left-1.5 rounded-sm bg-ink px-2 py-0.5 text-[11px] text-white">
        {tag}
      </figcaption>
    </figure>
  )
}
