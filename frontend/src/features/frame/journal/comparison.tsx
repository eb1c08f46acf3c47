import { urls, type Weighing } from '@/api/client'
import { useComparison, useJournal } from '@/api/queries'

type Props = { weighing: Weighing; entryIds: number[] }

/** Two steps of the journal beside each other, the earlier one left. */
export function Comparison({ weighing, entryIds }: Props) {
  const [firstId = 0, secondId = 0] = [...entryIds].sort((a, b) => a - b)
  const comparison = useComparison(weighing.id, firstId, secondId)
  const entries = useJournal(weighing.id).data?.entries ?? []
  const words = (id: number) => entries.find((entry) => entry.id === id)?.words ?? ''
  const [firstFramed, secondFramed] = comparison.data?.framed_ids ?? []
  return (
    <main
      aria-label="Comparison of two steps"
      aria-busy={comparison.isPending}
      className="grid min-h-0 min-w-0 grid-rows-[minmax(0,1fr)_auto]"
    >
      <div className="grid min-h-0 grid-cols-2 gap-0.5 bg-stage">
        <Step words={words(firstId)} framedId={firstFramed} />
        <Step words={words(secondId)} framedId={secondFramed} />
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

function Step({ words, framedId }: { words: string; framedId: number | null | undefined }) {
  return (
    <figure className="relative flex min-h-0 min-w-0 items-center justify-center p-4">
      {framedId ? (
        <img
          src={urls.comparedPixels(framedId)}
          alt={`As framed after “${words}”`}
          className="max-h-full max-w-full object-contain"
        />
      ) : (
        <p className="rounded-md bg-sheet p-3">Its pixels were never made.</p>
      )}
      <figcaption className="absolute bottom-2.5 left-2.5 max-w-[90%] truncate rounded-sm bg-ink px-2 py-1 text-[11.5px] text-white">
        {words}
      </figcaption>
    </figure>
  )
}
