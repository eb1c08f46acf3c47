import type { Encode, Weighing } from '@/api/client'
import { useArrival } from '@/api/queries'
import { Button } from '@/ui/button'
import { Field } from '@/ui/fields/field'
import { exactWords, parseNumber, secondsWords, sizeWords } from '@/words'

import { type Line, secondsOf, useLines } from './lines'

const readSpeed = (text: string) => parseNumber(text, 0.001, 1000)
const readTrip = (text: string) => parseNumber(text, 0, 10_000)

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
    <section aria-label="Loading" className="px-3.5 py-3">
      <table className="w-full text-small">
        <thead>
          <tr className="text-left text-tiny text-soft">
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
                  isLabelHidden
                  text={String(line.kbit_s / 1000)}
                  read={readSpeed}
                  problem="A speed is 0.001 to 1000 Mbit/s."
                  onEnter={(text) => change(number, { kbit_s: (readSpeed(text) ?? 1) * 1000 })}
                />
              </td>
              <td>
                <Field
                  label={`Round trip of line ${number + 1}, ms`}
                  isLabelHidden
                  text={String(line.round_trip_ms)}
                  read={readTrip}
                  problem="A round trip is 0 to 10000 ms."
                  onEnter={(text) => change(number, { round_trip_ms: readTrip(text) ?? 0 })}
                />
              </td>
              <td className="num text-right">
                {secondsWords(secondsOf(selected.size_bytes, line))}
              </td>
              <td className="text-right">
                <Button look="quiet" className="py-0" onClick={() => onArrive({ ...line })}>
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
    </section>
  )
}
