import type { ReactNode } from 'react'

import type { Encode, FormatProgress, Weighing } from '@/api/client'
import { likenessNumber, sizeWords } from '@/words'

import { Row, WaitingRow } from './rows'

type Props = {
  weighing: Weighing
  candidates: Encode[]
  /** What knobs were turned to, the newest last. */
  tries: Encode[]
  selected: Encode | undefined
  onSelect: (encodeId: number) => void
  against: Encode | undefined
  /** The pinned one was made for another size, which is enlarged to the place. */
  isOfOtherSize: boolean
  /** What was pinned shows another part of the photo. */
  isLetGo: boolean
  /** What stands at the end of the table. */
  last: ReactNode
}

/** What was found: a row a format from the beginning, so that nothing moves while more is found. */
export function Candidates(props: Props) {
  const { weighing, candidates, tries, selected, onSelect, against } = props
  const { isOfOtherSize, isLetGo, last } = props
  const { search } = weighing
  const known = new Set(search.formats.map(({ format }) => format))
  const others = candidates.filter(({ settings }) => !known.has(settings.format))
  const row = (candidate: Encode, note?: string) => (
    <Row
      key={candidate.id}
      candidate={candidate}
      weighing={weighing}
      isSelected={candidate.id === selected?.id}
      onSelect={() => onSelect(candidate.id)}
      note={
        note ??
        closeWords(weighing, candidate) ??
        (isImproved(weighing, candidate) ? 'improved' : undefined)
      }
    />
  )
  const rowsOf = (progress: FormatProgress) => {
    const found = candidates.filter(({ settings }) => settings.format === progress.format)
    const soFar = weighing.encodes.find(({ id }) => id === progress.best_so_far_id)
    const rows = found.map((each) => row(each))
    if (progress.state !== 'done' && soFar && !found.includes(soFar)) {
      rows.push(row(soFar, progress.state === 'failed' ? 'cut short' : 'so far'))
    }
    if (rows.length > 0) return rows
    return [<WaitingRow key={progress.format} progress={progress} searchState={search.state} />]
  }
  return (
    <section aria-label="Candidates" className="border-b border-line px-2 py-2">
      <table className="w-full border-collapse text-small">
        <thead>
          <tr className="text-tiny text-soft">
            <th className="p-1.5 text-left font-medium">Candidate</th>
            <th className="p-1.5 text-right font-medium">Size</th>
            <th className="p-1.5 text-right font-medium">Pixels</th>
            <th className="p-1.5 text-right font-medium">Likeness</th>
          </tr>
        </thead>
        <tbody>
          {search.formats.flatMap(rowsOf)}
          {others.map((each) => row(each))}
          {last}
        </tbody>
        {tries.length > 0 && (
          <tbody>
            <tr>
              <th
                colSpan={4}
                className="px-1.5 pt-2 pb-1 text-left text-tiny font-medium text-soft"
              >
                Tried
              </th>
            </tr>
            {tries.map((each) => row(each))}
          </tbody>
        )}
      </table>
      {against && (
        <p className="px-1.5 pt-1 text-small text-soft">
          Compared with the pinned {against.name}, {sizeWords(against.size_bytes)}
          {isOfOtherSize && `, of another size: likeness ${likenessNumber(against.likeness)} there`}
        </p>
      )}
      {isLetGo && (
        <p className="px-1.5 pt-1 text-small text-soft">
          What was pinned shows another part of the photo, and is let go.
        </p>
      )}
    </section>
  )
}

/** What a row says of a candidate that is too close to call. */
function closeWords({ close_call }: Weighing, { id }: Encode): string | undefined {
  if (!close_call?.encode_ids.includes(id)) return undefined
  return close_call.encode_ids[0] === id ? undefined : 'looks as good'
}

/** Whether a candidate was found while somebody looked, and is better than the one before. */
function isImproved({ improved }: Weighing, { id }: Encode): boolean {
  return improved.some(({ encode_id }) => encode_id === id)
}
