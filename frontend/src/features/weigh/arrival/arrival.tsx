import type { Encode, Weighing } from '@/api/client'
import { useArrival } from '@/api/queries'
import { Button } from '@/ui/button'
import { exactWords, secondsWords, sizeWords } from '@/words'

import { type Line, secondsOf, useLines } from './lines'

type Props = {
  weighing: Weighing
  selected: Encode
  arriving: Line | null
  onArrive: (line: Line | null) => void
}

/** How long an encode takes on slow lines, and a way to see it come. */
export function Arrival({ weighing, selected, arriving, onArrive }: Props) {
  const [lines, setLines] = useLines()
  const { data } = useArrival(weighing.id, selected)
  const change = (number: number, part: Partial<Line>) =>
    setLines(lines.map((line, at) => (at === number ? { ...line, ...part } : line)))
  return (
    <details
      aria-label="How it arrives"
      className="border-b border-line px-3.5 py-2.5"
      open={arriving !== null || undefined}
    >
      <summary className="flex cursor-pointer justify-between gap-2 text-[11px] text-soft">
        <b className="font-semibold">How it arrives</b>
        <span className="num">
          {lines.map((line) => secondsWords(secondsOf(selected.size_bytes, line))).join(', ')}
        </span>
      </summary>
      <table className="mt-2 w-full text-xs">
        <thead>
          <tr className="text-left text-[11px] text-soft">
            <th className="font-medium">Mbit/s</th>
            <th className="font-medium">Round trip, ms</th>
            <th className="text-right font-medium">Seconds</th>
            <th>
              <span className="sr-only">See it</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {lines.map((line, number) => (
            <tr key={number}>
              <td className="py-0.5">
                <Field
                  label={`Speed of line ${number + 1}, Mbit/s`}
                  value={line.kbit_s / 1000}
                  onChange={(value) => value > 0 && change(number, { kbit_s: value * 1000 })}
                />
              </td>
              <td>
                <Field
                  label={`Round trip of line ${number + 1}, ms`}
                  value={line.round_trip_ms}
                  onChange={(value) => value >= 0 && change(number, { round_trip_ms: value })}
                />
              </td>
              <td className="num text-right">
                {secondsWords(secondsOf(selected.size_bytes, line))}
              </td>
              <td className="text-right">
                <Button look="quiet" className="!py-0" onClick={() => onArrive({ ...line })}>
                  Watch
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {data?.first_picture_bytes && (
        <p className="mt-1 text-soft" title={exactWords(data.first_picture_bytes)}>
          The whole picture stands, coarse, after {sizeWords(data.first_picture_bytes)}.
        </p>
      )}
      {arriving && (
        <p className="mt-1 flex items-center justify-between">
          <span role="status">The stage shows it arriving.</span>
          <Button look="small" onClick={() => onArrive(null)}>
            Show it whole
          </Button>
        </p>
      )}
    </details>
  )
}

type FieldProps = { label: string; value: number; onChange: (value: number) => void }

function Field({ label, value, onChange }: FieldProps) {
  return (
    <input
      type="number"
      aria-label={label}
      defaultValue={value}
      min={0}
      step="any"
      onBlur={(event) => onChange(Number(event.target.value))}
      className="num w-20 rounded-md border border-line bg-field px-1.5 py-0.5"
    />
  )
}
