import { api, type Bought, type Encode, type Weighing } from '@/api/client'
import { usePhotoAct } from '@/api/queries'
import { Button } from '@/ui/button'
import { FormatMark } from '@/ui/format-mark'
import { countWords, exactWords, limitWords, pixelWords, savingWords, sizeWords } from '@/words'

import { Caution } from './caution'
import { losesTransparency } from './transparency'

type Props = {
  weighing: Weighing
  selected: Encode | undefined
  best: Encode | undefined
  isDraft: boolean
  bought: Bought | undefined
}

/** The one verdict: which file, how it looks, how much lighter it is, and at most one caution. */
export function Verdict({ weighing, selected, best, isDraft, bought }: Props) {
  const act = usePhotoAct(weighing.id)
  const { search } = weighing
  return (
    <section aria-label="Outcome" className="min-h-31 border-b border-line px-3.5 py-3">
      <p role="status" className="sr-only">
        {search.state === 'done' && best
          ? `Weighed: ${best.name}, ${sizeWords(best.size_bytes)}. ${best.likeness_sentence}`
          : ''}
      </p>
      {selected ? (
        <>
          <h2 className="flex items-center gap-2 text-title leading-tight font-semibold">
            <FormatMark format={selected.settings.format} />
            <span title={exactWords(selected.size_bytes)}>
              {selected.name}, <span className="num">{sizeWords(selected.size_bytes)}</span>
            </span>
          </h2>
          <p className="mt-0.5">
            {selected.likeness_sentence}{' '}
            <b className="font-semibold">
              {selected.is_original
                ? selected.name === 'Repacked'
                  ? 'Same pixels, fewer bytes.'
                  : 'Not a byte of it changes.'
                : `${savingWords(selected.size_bytes, weighing.source.size_bytes)}.`}
            </b>
          </p>
          {isDraft && (
            <p className="mt-0.5 text-soft">On the stage is a draft: its file is being made.</p>
          )}
          {bought && <p className="mt-1.5">{bought.sentence}</p>}
          <Caution weighing={weighing} selected={selected} best={best} />
        </>
      ) : (
        <p className="text-soft">Nothing is weighed yet.</p>
      )}
      <div className="mt-1.5 flex min-h-7 items-start justify-between gap-2">
        {search.state === 'running' ? (
          <>
            <p role="status" className="text-soft">
              Weighing, {countWords(encodesOf(weighing), 'encode')} …
            </p>
            <Button
              look="quiet"
              className="py-0"
              onClick={() => act.mutate(() => api.stopSearch(weighing.id, weighing.density))}
            >
              Stop weighing
            </Button>
          </>
        ) : (
          <Why weighing={weighing} selected={selected} />
        )}
        {search.state === 'stopped' && (
          <Button
            look="quiet"
            className="py-0"
            onClick={() => act.mutate(() => api.changeAim(weighing.id, {}))}
          >
            Weigh on
          </Button>
        )}
      </div>
      {search.error_message && <p className="text-over">{search.error_message}</p>}
    </section>
  )
}

/** What the verdict rests on, and what would be enough for more. */
function Why({ weighing, selected }: Pick<Props, 'weighing' | 'selected'>) {
  const act = usePhotoAct(weighing.id)
  const { summary, next_level, rescue, close_call, second_opinion } = weighing
  const encodes = encodesOf(weighing)
  return (
    <details className="min-w-0 grow text-small">
      <summary className="cursor-pointer py-1 text-navy">Why</summary>
      <div className="mt-1 space-y-1">
        <p>
          {summary}{' '}
          <span className="text-soft">
            {countWords(encodes, 'encode')} {encodes === 1 ? 'was' : 'were'} weighed.
          </span>
        </p>
        {close_call && <p>{close_call.sentence}</p>}
        {second_opinion && <p>{second_opinion.sentence}</p>}
        {selected && (
          <p className="text-soft">
            {selected.setting_words}, {pixelWords(selected)} px.
          </p>
        )}
        {selected && <Improved weighing={weighing} selected={selected} />}
        {next_level && !rescue && (
          <p className="flex items-center justify-between gap-2">
            <span>
              {next_level.is_estimate ? 'About ' : ''}
              {limitWords(next_level.limit_bytes)} would be {next_level.words}.
            </span>
            <Button
              look="quiet"
              className="py-0"
              onClick={() =>
                act.mutate(() =>
                  api.changeAim(weighing.id, { limit_bytes: next_level.limit_bytes }),
                )
              }
            >
              Allow it
            </Button>
          </p>
        )}
        {selected && losesTransparency(selected, weighing) && (
          <p>It has no transparency: it is filled with the colour of the page.</p>
        )}
      </div>
    </details>
  )
}

/** What all effort gained, of a candidate that came of it. */
function Improved({ weighing, selected }: { weighing: Weighing; selected: Encode }) {
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
  return <p>Tried once more while you looked, with all effort: {gain} than before.</p>
}

const encodesOf = ({ search }: Weighing) =>
  search.formats.reduce((sum, format) => sum + format.encodes, 0)
