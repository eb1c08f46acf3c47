import type { Encode, FormatProgress, Weighing } from '@/api/client'
import { FormatMark } from '@/ui/format-mark'
import { exactWords, likenessNumber, sizeWords } from '@/words'

import { worstWords } from '../spots/kinds'

import { losesTransparency } from './transparency'

type RowProps = {
  candidate: Encode
  weighing: Weighing
  isSelected: boolean
  onSelect: () => void
  note?: string | undefined
}

/** An encode to choose. */
export function Row({ candidate, weighing, isSelected, onSelect, note }: RowProps) {
  const isOver = !candidate.meets_aim
  const isHeavier = candidate.size_bytes > weighing.source.size_bytes && !candidate.is_original
  return (
    <tr
      className={`relative h-11 border-b border-hair ${isSelected ? 'bg-wash' : 'hover:bg-field'}`}
    >
      <td className={`p-1.5 ${isSelected ? 'border-l-[3px] border-navy' : 'pl-2'}`}>
        <label className="flex flex-wrap items-center gap-x-2 after:absolute after:inset-0 has-focus-visible:outline-2 has-focus-visible:outline-navy">
          <input
            type="radio"
            name="candidate"
            className="sr-only"
            checked={isSelected}
            onChange={onSelect}
          />
          <FormatMark format={candidate.settings.format} />
          {candidate.name}
          {weighing.picked_ids.includes(candidate.id) && (
            <span className="rounded-sm bg-navy px-1 text-tiny font-semibold text-white">
              taken
            </span>
          )}
          {losesTransparency(candidate, weighing) && (
            <span className="text-tiny text-soft">filled</span>
          )}
          {note && <span className="text-tiny text-soft">{note}</span>}
          {isHeavier && <span className="text-tiny text-soft">heavier than the original</span>}
          {candidate.worst && (
            <span className="w-full pl-5 text-tiny leading-tight text-soft">
              {worstWords(candidate.worst)}
            </span>
          )}
        </label>
      </td>
      <td
        title={exactWords(candidate.size_bytes)}
        className={`num p-1.5 text-right whitespace-nowrap ${isOver ? 'font-semibold text-over' : ''}`}
      >
        {sizeWords(candidate.size_bytes)}
        {isOver && <span className="sr-only"> misses the aim</span>}
      </td>
      <td className="num p-1.5 text-right">{candidate.width_px}</td>
      <td className="num p-1.5 text-right" title={candidate.likeness_words}>
        {likenessNumber(candidate.likeness)}
      </td>
    </tr>
  )
}

type WaitingProps = { progress: FormatProgress; searchState: Weighing['search']['state'] }

/** A format that has nothing to show yet. */
export function WaitingRow({ progress, searchState }: WaitingProps) {
  return (
    <tr className="h-11 border-b border-hair text-soft">
      <td className="p-1.5 pl-2">
        <span className="flex items-center gap-2">
          <FormatMark format={progress.format} />
          {progress.name}
        </span>
      </td>
      <td colSpan={3} className="p-1.5 text-right">
        {waitingWords(progress, searchState)}
      </td>
    </tr>
  )
}

function waitingWords(progress: FormatProgress, searchState: WaitingProps['searchState']): string {
  if (progress.error_message) return progress.error_message
  if (searchState !== 'running') return 'not weighed'
  return progress.encodes ? `weighing, ${progress.encodes}` : 'waiting'
}
