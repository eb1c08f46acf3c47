import { useState } from 'react'

import type { Weighing } from '@/api/client'
import { Button } from '@/ui/button'
import { Dial } from '@/ui/fields/dial'
import { Field } from '@/ui/fields/field'
import { parseNumber, pixelWords } from '@/words'

import type { FramingEditor } from '../use-framing'

import { Panes } from './panes'

const MOST_PERCENT = 200

type Props = { weighing: Weighing; framing: FramingEditor }

/** Sharpening, judged at actual pixels beside what it comes from. */
export function SharpenStrip({ weighing, framing }: Props) {
  const { plan } = weighing
  const framed = useLatest(weighing.framed)
  const { value: sharpen, show, send } = framing.sharpen
  const isAutomatic = sharpen.amount_percent === null
  const amount = sharpen.amount_percent ?? plan.sharpen.amount_percent ?? 0
  const readAmount = (text: string) => parseNumber(text, 0, 300)
  return (
    <section
      aria-label="Sharpening"
      className="grid min-h-0 grid-cols-[minmax(0,1fr)] grid-rows-[auto_minmax(9.5rem,1fr)] border-t border-line bg-sheet px-3 pt-1.5 pb-3"
    >
      <div className="mb-1.5 flex flex-wrap items-center gap-x-3 gap-y-1 text-small">
        <h2 className="font-semibold">At actual pixels, {pixelWords(plan)}</h2>
        <div className="ml-auto flex flex-wrap items-center gap-x-2 gap-y-1">
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
            hint="As much as the reduction takes away"
            className="aria-pressed:border-ink aria-pressed:bg-wash"
            onClick={() => send({ ...sharpen, amount_percent: isAutomatic ? amount : null })}
          >
            Automatic
          </Button>
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
