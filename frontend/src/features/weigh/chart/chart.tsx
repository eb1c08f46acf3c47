import { useState } from 'react'

import type { Encode, Weighing } from '@/api/client'
import { useSize } from '@/ui/hooks/use-size'
import { countWords, sizeWords } from '@/words'

import { type ChartContent, Drawing } from './drawing'
import { pointWords } from './point'

const MARGINS = { right: 56, top: 10, bottom: 24 }
/** Room for numbers, and beside them for the words of levels where the chart is wide. */
const NARROW_PX = 620
const LEFT_PX = { narrow: 44, wide: 138 }

type Props = ChartContent & { isOpen: boolean; onFold: () => void }

/** Bytes against likeness: every encode made, an edge per format, and the limit, all to be moved. */
export function Chart({ isOpen, onFold, ...props }: Props) {
  const [ref, size] = useSize()
  const [hovered, setHovered] = useState<Encode | null>(null)
  const left = size.width < NARROW_PX ? LEFT_PX.narrow : LEFT_PX.wide
  return (
    <section
      aria-label="Chart"
      className="grid min-h-0 grid-cols-[minmax(0,1fr)] grid-rows-[auto_1fr] narrow:h-52 border-t border-line bg-sheet px-3 pt-2"
    >
      <div className="flex justify-between gap-3 text-small narrow:flex-wrap">
        <h2 className="shrink-0 font-semibold">
          <button
            type="button"
            aria-expanded={isOpen}
            className="flex min-h-6 items-center gap-1.5 hover:underline"
            onClick={onFold}
          >
            <svg
              viewBox="0 0 10 10"
              className={`size-2.5 fill-ink ${isOpen ? 'rotate-90' : ''}`}
              aria-hidden
            >
              <path d="M2 1l6 4l-6 4z" />
            </svg>
            Likeness by bytes
          </button>
        </h2>
        <p className="truncate text-soft">
          {hovered ? pointWords(hovered) : chartWords(props.weighing)}
        </p>
      </div>
      <div ref={ref} className="min-h-0 overflow-hidden">
        {isOpen && size.width > 0 && (
          <Drawing plot={{ ...size, ...MARGINS, left }} onHover={setHovered} {...props} />
        )}
      </div>
    </section>
  )
}

/** What the chart says by itself: where more bytes gain little, or what it shows. */
function chartWords({ encodes, knee_id }: Weighing): string {
  const bend = encodes.find(({ id }) => id === knee_id)
  if (!bend) return `${countWords(encodes.length, 'encode')} measured`
  return `Little gain above ${sizeWords(bend.size_bytes)}`
}
