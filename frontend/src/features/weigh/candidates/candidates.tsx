import type { Encode, Weighing } from '@/api/client'

import { Chosen } from './chosen'
import { Row, WaitingRow } from './rows'

type Props = {
  weighing: Weighing
  candidates: Encode[]
  selected: Encode | undefined
  isDraft: boolean
  onSelect: (encodeId: number) => void
  against: Encode | undefined
  onPin: (encodeId: number | null) => void
}

/** What was found, best first; one of it is looked at, and can be taken and saved. */
export function Candidates(props: Props) {
  const { weighing, candidates, selected, onSelect } = props
  const { search, encodes } = weighing
  const waiting = search.formats.filter(({ state }) => state !== 'done')
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
          {candidates.map((candidate) => (
            <Row
              key={candidate.id}
              candidate={candidate}
              weighing={weighing}
              isSelected={candidate.id === selected?.id}
              onSelect={() => onSelect(candidate.id)}
              note={
                closeWords(weighing, candidate) ??
                (isImproved(weighing, candidate) ? 'improved' : undefined)
              }
            />
          ))}
          {waiting.map((progress) => {
            const best = encodes.find(({ id }) => id === progress.best_so_far_id)
            return best && !candidates.includes(best) ? (
              <Row
                key={progress.format}
                candidate={best}
                weighing={weighing}
                isSelected={best.id === selected?.id}
                onSelect={() => onSelect(best.id)}
                note={progress.state === 'failed' ? 'cut short' : 'so far'}
              />
            ) : (
              <WaitingRow key={progress.format} progress={progress} searchState={search.state} />
            )
          })}
        </tbody>
      </table>
      {selected && <Chosen {...props} selected={selected} />}
    </section>
  )
}

/** What a row says of a candidate that is too close to call. */
function closeWords({ close_call }: Weighing, { id }: Encode): string | undefined {
  if (!close_call?.encode_ids.includes(id)) return undefined
  return close_call.encode_ids[0] === id ? 'better buy' : 'as good'
}

/** Whether a candidate was found while somebody looked, and is better than the one before. */
function isImproved({ improved }: Weighing, { id }: Encode): boolean {
  return improved.some(({ encode_id }) => encode_id === id)
}
