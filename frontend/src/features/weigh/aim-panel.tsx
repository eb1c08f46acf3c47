import { type FormEvent, useState } from 'react'

import type { AimChange, Weighing } from '@/api/client'
import { useChangeAim, useStopSearch } from '@/api/queries'
import { Button } from '@/ui/button'
import { Segments } from '@/ui/segments'
import { limitWords, parseLimit, pixelWords, sizeWords } from '@/words'

const DENSITIES = [
  { value: '1', text: '1×' },
  { value: '1.5', text: '1.5×' },
  { value: '2', text: '2×' },
  { value: '3', text: '3×' },
] as const

const FIELD =
  'num rounded-sm border border-ink bg-field px-2 py-1 text-[15px] font-semibold aria-invalid:border-over'

/** What the photo may weigh and where it stands. A change starts a new search. */
export function AimPanel({ weighing }: { weighing: Weighing }) {
  const { aim, search, source, framing } = weighing
  const changing = useChangeAim(weighing.id)
  const stop = useStopSearch(weighing.id)
  const change = (changes: AimChange) => changing.mutate(changes)
  const place = aim.place
  const density = DENSITIES.find((option) => Number(option.value) === place.density)
  return (
    <section aria-label="Aim" className="space-y-2.5 border-b border-line px-3.5 py-3">
      <Entry
        key={`limit ${aim.limit_bytes}`}
        label="At most"
        text={limitWords(aim.limit_bytes)}
        read={parseLimit}
        problem="Write a size like 80 kB, 80 KiB or 80000 B."
        onEnter={(limit_bytes) => change({ limit_bytes })}
        after={<span className="text-soft">original {sizeWords(source.size_bytes)}</span>}
      />
      <Entry
        key={`width ${place.css_width_px}`}
        label="Stands"
        text={`${place.css_width_px} px`}
        read={parseWidth}
        problem="Write a width of 1 to 16384 CSS pixels."
        onEnter={(css_width_px) => change({ css_width_px })}
        after={
          <Segments
            label="Density"
            value={density?.value ?? ''}
            options={DENSITIES}
            onChange={(to) => change({ density: Number(to) })}
          />
        }
      />
      {framing?.is_transparent && (
        <label className="flex items-center gap-2">
          <span className="text-soft">Colour of the page behind it</span>
          <input
            type="color"
            className="h-7 w-12"
            title="JPEG has no transparency and is filled with it"
            key={aim.background}
            defaultValue={aim.background}
            ref={whenChosen((background) => change({ background }))}
          />
        </label>
      )}
      <div className="flex min-h-7 items-center justify-between text-[11.5px] text-soft">
        <span>
          {pixelWords(source)} px
          {framing ? `, framed to ${pixelWords(framing)}` : ''}
        </span>
        {search.state === 'running' && (
          <Button look="quiet" onClick={() => stop.mutate(undefined)}>
            Stop weighing
          </Button>
        )}
        {search.state === 'stopped' && (
          <Button look="quiet" onClick={() => change({})}>
            Weigh on
          </Button>
        )}
      </div>
      {search.error_message && <p className="text-over">{search.error_message}</p>}
      {changing.error && <p className="text-over">{changing.error.message}</p>}
    </section>
  )
}

/** React's `onChange` fires while a colour is still being looked for; the native event after. */
function whenChosen(onChoice: (value: string) => void) {
  return (input: HTMLInputElement | null) => {
    const send = () => input && onChoice(input.value)
    input?.addEventListener('change', send)
    return () => input?.removeEventListener('change', send)
  }
}

function parseWidth(text: string): number | null {
  const match = /^\s*(\d{1,5})\s*(px)?\s*$/i.exec(text)
  const width = Number(match?.[1] ?? 0)
  return width >= 1 && width <= 16384 ? width : null
}

type EntryProps = {
  label: string
  text: string
  read: (text: string) => number | null
  problem: string
  onEnter: (value: number) => void
  after: React.ReactNode
}

/** A number with its unit, sent on Enter or when the field is left. */
function Entry({ label, text, read, problem, onEnter, after }: EntryProps) {
  const [draft, setDraft] = useState(text)
  const value = read(draft)
  const send = (event?: FormEvent) => {
    event?.preventDefault()
    if (value !== null && draft !== text) onEnter(value)
  }
  return (
    <form onSubmit={send} onBlur={() => send()}>
      <div className="flex items-center justify-between gap-2">
        <label className="flex items-center gap-2">
          <span className="w-12 text-soft">{label}</span>
          <input
            className={`${FIELD} w-[80px]`}
            value={draft}
            aria-invalid={value === null}
            onChange={(event) => setDraft(event.target.value)}
          />
        </label>
        {after}
      </div>
      {value === null && (
        <p role="status" className="mt-1 text-over">
          {problem}
        </p>
      )}
    </form>
  )
}
