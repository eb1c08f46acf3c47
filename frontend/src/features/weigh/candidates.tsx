import type { Encode, Format, Weighing, Wire } from '@/api/client'
import { urls } from '@/api/client'
import { useSetPick } from '@/api/queries'
import { Button, buttonClass } from '@/ui/button'
import { FormatMark } from '@/ui/format-mark'
import {
  encodeName,
  exactWords,
  FORMAT_NAMES,
  isKept,
  isMet,
  likenessWords,
  pixelWords,
  savingWords,
  settingWords,
  sizeWords,
} from '@/words'

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
  const { weighing, candidates, selected, isDraft, onSelect } = props
  const waiting = weighing.search.formats.filter((format) => format.state !== 'done')
  return (
    <section aria-label="Candidates" className="border-b border-line px-2 py-2">
      <table className="w-full border-collapse text-xs">
        <thead>
          <tr className="text-[11px] text-soft">
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
              note={isDraft && candidate.id === selected?.id ? 'draft' : undefined}
            />
          ))}
          {waiting.map((progress) => {
            const best = bestSoFar(weighing, progress.format)
            const words = waitingWords(progress, weighing.search.state)
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
              <WaitingRow key={progress.format} format={progress.format} words={words} />
            )
          })}
        </tbody>
      </table>
      {selected && <Chosen {...props} selected={selected} />}
    </section>
  )
}

type RowProps = {
  candidate: Encode
  weighing: Weighing
  isSelected: boolean
  onSelect: () => void
  note?: string | undefined
}

function Row({ candidate, weighing, isSelected, onSelect, note }: RowProps) {
  const isOver = !isMet(weighing.aim, candidate)
  return (
    <tr className={`relative border-b border-hair ${isSelected ? 'bg-wash' : 'hover:bg-field'}`}>
      <td className={`p-1.5 ${isSelected ? 'border-l-[3px] border-navy' : 'pl-[9px]'}`}>
        <label className="flex items-center gap-2 after:absolute after:inset-0 has-focus-visible:outline-2 has-focus-visible:outline-navy">
          <input
            type="radio"
            name="candidate"
            className="sr-only"
            checked={isSelected}
            onChange={onSelect}
          />
          <FormatMark format={candidate.settings.format} />
          {encodeName(candidate)}
          {candidate.id === weighing.pick_id && (
            <span className="rounded-sm bg-navy px-1 text-[11px] font-semibold text-white">
              taken
            </span>
          )}
          {losesTransparency(candidate, weighing) && (
            <span className="text-[11px] text-soft">filled</span>
          )}
          {note && <span className="text-[11px] text-soft">{note}</span>}
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
      <td className="num p-1.5 text-right" title={likenessWords(candidate.likeness)}>
        {candidate.likeness.toFixed(1)}
      </td>
    </tr>
  )
}

/** What a format has already that is within the limit, while its search goes on. */
export function bestSoFar(weighing: Weighing, format: Format): Encode | undefined {
  return weighing.encodes
    .filter((encode) => encode.settings.format === format && !isKept(encode))
    .filter((encode) => isMet(weighing.aim, encode))
    .sort((a, b) =>
      weighing.aim.likeness === null ? b.likeness - a.likeness : a.size_bytes - b.size_bytes,
    )[0]
}

function losesTransparency(encode: Encode, weighing: Weighing): boolean {
  return encode.settings.format === 'jpeg' && Boolean(weighing.framed?.is_transparent)
}

function WaitingRow({ format, words }: { format: Format; words: string }) {
  return (
    <tr className="border-b border-hair text-soft">
      <td className="p-1.5 pl-[9px]">
        <span className="flex items-center gap-2">
          <FormatMark format={format} />
          {FORMAT_NAMES[format]}
        </span>
      </td>
      <td colSpan={3} className="p-1.5 text-right">
        {words}
      </td>
    </tr>
  )
}

function waitingWords(
  progress: Wire['FormatProgressValue'],
  state: Wire['SearchValue']['state'],
): string {
  if (progress.error_message) return progress.error_message
  if (state !== 'running') return 'not weighed'
  return progress.encodes ? `weighing, ${progress.encodes}` : 'waiting'
}

function Chosen({ weighing, selected, isDraft, against, onPin }: Props & { selected: Encode }) {
  const setPick = useSetPick(weighing.id)
  const isPick = weighing.pick_id === selected.id
  return (
    <div className="px-1.5 pt-3 pb-1">
      <p>
        <b className="font-semibold">{encodeName(selected)}</b>, {settingWords(selected.settings)},{' '}
        {pixelWords(selected)} px. {likenessSentence(selected)}
        {losesTransparency(selected, weighing) &&
          ' It has no transparency: it is filled with the colour of the page.'}
      </p>
      <p className="mt-0.5 font-semibold">
        {isKept(selected)
          ? 'Not a byte of it changes'
          : savingWords(selected.size_bytes, weighing.source.size_bytes)}
      </p>
      {isDraft && <p className="mt-0.5 text-soft">A draft: the file itself is being made.</p>}
      <div className={`mt-2.5 flex gap-2 ${isDraft ? 'invisible' : ''}`}>
        {isPick ? (
          <Button disabled={setPick.isPending} onClick={() => setPick.mutate(null)}>
            Put back
          </Button>
        ) : (
          <Button
            look="main"
            disabled={setPick.isPending}
            onClick={() => setPick.mutate(selected.id)}
          >
            Take this one
          </Button>
        )}
        <a
          className={buttonClass(isPick ? 'main' : 'plain')}
          href={urls.download(weighing.id, selected.id)}
          download
        >
          Save file
        </a>
        {against?.id !== selected.id && (
          <Button
            title="Keeps this one in view, to compare others with"
            onClick={() => onPin(selected.id)}
          >
            Pin
          </Button>
        )}
      </div>
      {against && (
        <p className="mt-2 flex items-center justify-between gap-2 text-[11.5px] text-soft">
          <span>
            Compared with the pinned {encodeName(against)}, {sizeWords(against.size_bytes)}
          </span>
          <Button look="quiet" onClick={() => onPin(null)}>
            Unpin
          </Button>
        </p>
      )}
    </div>
  )
}

function likenessSentence(encode: Encode): string {
  const words = likenessWords(encode.likeness)
  if (words === 'damaged') return 'In its place it looks damaged.'
  return words === 'no visible change'
    ? 'In its place it shows no visible change.'
    : `In its place the difference is ${words}.`
}
