import { useState } from 'react'

import { urls, type Weighing } from '@/api/client'
import { useComparison, useJournal } from '@/api/queries'

type Props = { weighing: Weighing; entryIds: number[] }

/** Two steps of the journal beside each other, the earlier one left. */
export function Comparison({ weighing, entryIds }: Props) {
  const [firstId = 0, secondId = 0] = [...entryIds].sort((a, b) => a - b)
  const comparison = useComparison(weighing.id, firstId, secondId)
  const entries = useJournal(weighing.id).data?.entries ?? []
  const words = (id: number) => entries.find((entry) => entry.id === id)?.words ?? ''
  return (
    <main
      aria-label="Comparison of two steps"
      aria-busy={comparison.isPending}
      className="grid min-h-0 min-w-0 grid-rows-[minmax(0,1fr)_auto]"
    >
      <div className="grid min-h-0 grid-cols-2 gap-0.5 bg-stage">
        <Step key={firstId} photoId={weighing.id} entryId={firstId} words={words(firstId)} />
        <Step key={secondId} photoId={weighing.id} entryId={secondId} words={words(secondId)} />
      </div>
      <div className="max-h-60 overflow-y-auto border-t border-line bg-sheet px-3.5 py-2">
        {comparison.error && <p className="text-over">{comparison.error.message}</p>}
        {comparison.data?.differences.length === 0 && <p>These two steps are the same.</p>}
        <table className="w-full text-left">
          <tbody>
            {comparison.data?.differences.map(({ topic, before, after }) => (
              <tr key={topic} className="border-b border-hair last:border-0">
                <th className="w-32 py-1 font-medium text-soft">{topic}</th>
                <td className="py-1">{before}</td>
                <td className="py-1 font-semibold">{after}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </main>
  )
}

type StepProps = { photoId: number; entryId: number; words: string }

function Step({ photoId, entryId, words }: StepProps) {
  const [hasFailed, setHasFailed] = useState(false)
  return (
    <figure className="relative flex min-h-0 min-w-0 items-center justify-center p-4">
      {hasFailed ? (
        <p className="rounded-md bg-sheet p-3">Its pixels cannot be made again.</p>
      ) : (
        <img
          src={urls.entryPixels(photoId, entryId)}
          alt={`As framed after “${words}”`}
          className="max-h-full max-w-full object-contain"
          onError={() => setHasFailed(true)}
        />
      )}
      <figcaption className="absolute bottom-2.5 left-2.5 max-w-[90%] truncate rounded-sm bg-ink px-2 py-1 text-small text-white">
        {words}
      </figcaption>
    </figure>
  )
}
