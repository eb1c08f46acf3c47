import { api, type Encode, urls, type Weighing } from '@/api/client'
import { usePhotoAct } from '@/api/queries'
import { Button, buttonClass } from '@/ui/button'
import { pixelWords, savingWords, sizeWords } from '@/words'

import { KeepTreatment } from './keep-treatment'
import { OverLimit } from './over-limit'
import { losesTransparency } from './transparency'

type Props = {
  weighing: Weighing
  selected: Encode
  isDraft: boolean
  against: Encode | undefined
  onPin: (encodeId: number | null) => void
}

/** The encode that is looked at: what it cost, and what can be done with it. */
export function Chosen({ weighing, selected, isDraft, against, onPin }: Props) {
  const taking = useTaking(weighing, selected)
  const isPick = weighing.picked_ids.includes(selected.id)
  return (
    <div className="px-1.5 pt-3 pb-1">
      <p>
        <b className="font-semibold">{selected.name}</b>, {selected.setting_words},{' '}
        {pixelWords(selected)} px. {selected.likeness_sentence}
        {losesTransparency(selected, weighing) &&
          ' It has no transparency: it is filled with the colour of the page.'}
      </p>
      <p className="mt-0.5 font-semibold">
        {selected.is_original
          ? 'Not a byte of it changes'
          : savingWords(selected.size_bytes, weighing.source.size_bytes)}
      </p>
      <Improved weighing={weighing} selected={selected} />
      {isDraft && (
        <p className="mt-0.5 text-soft">
          On the stage is a draft of what follows: its file is being made.
        </p>
      )}
      <div className={`mt-2.5 flex gap-2 ${isDraft ? 'invisible' : ''}`}>
        {weighing.chosen_ids.includes(selected.id) ? (
          <Button disabled={taking.isPending} onClick={taking.putBack}>
            Put back
          </Button>
        ) : isPick ? null : (
          <Button look="main" disabled={taking.isPending} onClick={taking.take}>
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
            hint="Keeps this one in view, to compare others with"
            onClick={() => onPin(selected.id)}
          >
            Pin
          </Button>
        )}
      </div>
      {isPick && weighing.density === 0 && <OverLimit photoId={weighing.id} />}
      {!isDraft && <KeepTreatment photoId={weighing.id} selected={selected} />}
      {against && (
        <p className="mt-2 flex items-center justify-between gap-2 text-small text-soft">
          <span>
            Compared with the pinned {against.name}, {sizeWords(against.size_bytes)}
          </span>
          <Button look="quiet" onClick={() => onPin(null)}>
            Unpin
          </Button>
        </p>
      )}
    </div>
  )
}

/** Taking an encode as the pick, or as the variant of its format. */
function useTaking({ id, density }: Weighing, selected: Encode) {
  const act = usePhotoAct(id)
  const format = selected.settings.format
  const isOwn = density === 0
  const set = (encodeId: number | null) =>
    act.mutate(() =>
      isOwn ? api.setPick(id, encodeId) : api.pickVariant(id, density, format, encodeId),
    )
  return {
    isPending: act.isPending,
    take: () => set(selected.id),
    putBack: () => set(null),
  }
}

/** What all effort gained, of a candidate that came of it. */
function Improved({ weighing, selected }: Pick<Props, 'weighing' | 'selected'>) {
  const { improved, encodes, aim } = weighing
  const known = improved.find(({ encode_id }) => encode_id === selected.id)
  const before = encodes.find(({ id }) => id === known?.before_id)
  if (!before) return null
  const likeness = selected.likeness - before.likeness
  const isShort = aim.likeness === null || before.likeness < aim.likeness
  const gain =
    isShort && likeness >= 0.05
      ? `${likeness.toFixed(1)} points more alike`
      : `${sizeWords(before.size_bytes - selected.size_bytes)} lighter`
  return (
    <p className="mt-0.5 text-soft">
      Tried once more while you looked, with all effort: {gain} than before.
    </p>
  )
}
