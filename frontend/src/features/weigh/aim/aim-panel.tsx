import { api, type AimChange, type Weighing } from '@/api/client'
import { usePhotoAct, useTerms } from '@/api/queries'
import { readSize } from '@/api/typed'
import { Button } from '@/ui/button'
import { Choice } from '@/ui/fields/choice'
import { ColourField } from '@/ui/fields/colour-field'
import { Field } from '@/ui/fields/field'
import { SizeControls } from '@/ui/fields/size-controls'
import { useDraft } from '@/ui/fields/use-draft'
import { limitWords, pixelWords, sizeWords } from '@/words'

import { FormatSwitches } from './format-switches'
import { PageAimLine } from './page-aim-line'

/** What the photo may weigh and where it stands. A change starts a new search. */
export function AimPanel({ weighing }: { weighing: Weighing }) {
  const { aim, search, source, framed, framing } = weighing
  const act = usePhotoAct(weighing.id)
  const changeAsync = (changes: AimChange) =>
    act.mutateAsync(() => api.changeAim(weighing.id, changes))
  const change = (changes: AimChange) => act.mutate(() => api.changeAim(weighing.id, changes))
  const formats = useDraft(aim.formats, (formats) => changeAsync({ formats }))
  const levels = useLevels(aim.likeness)
  const place = aim.place
  return (
    <section aria-label="Aim" className="space-y-2.5 border-b border-line px-3.5 py-3">
      <SizeControls weighing={weighing} onChange={changeAsync} labelClass={LOOK.labelClass} />
      <Field
        label="At most"
        text={aim.limit_bytes === null ? '' : limitWords(aim.limit_bytes)}
        placeholder="any size"
        onEnter={async (text) => change({ limit_bytes: await readSize(text) })}
        {...LOOK}
      />
      <Choice
        label="Looks"
        className="grow"
        labelClass={LOOK.labelClass}
        value={aim.likeness === null ? BEST : String(aim.likeness)}
        options={levels}
        onChange={(level) => change({ likeness: level === BEST ? null : Number(level) })}
      />
      {place.density > 1 && (place.pixel_by_pixel || (framed?.density ?? 1) > 1) && (
        <p className="flex items-center justify-between gap-2 text-small text-soft">
          <span>
            {place.pixel_by_pixel
              ? 'Judged pixel by pixel'
              : `Judged as it is seen at ${framed?.density ?? place.density}×`}
          </span>
          <Button
            look="quiet"
            hint={
              place.pixel_by_pixel
                ? 'At a normal distance, where the finest detail is too small to see'
                : 'As if each pixel were as large as on a screen of 1×'
            }
            onClick={() => change({ pixel_by_pixel: !place.pixel_by_pixel })}
          >
            {place.pixel_by_pixel ? 'As it is seen' : 'Pixel by pixel'}
          </Button>
        </p>
      )}
      {framed?.is_transparent && (
        <ColourField
          label="Colour of the page behind it"
          hint="JPEG has no transparency and is filled with it"
          value={framing.background}
          onChoice={(background) =>
            act.mutate(() => api.changeFraming(weighing.id, { background }))
          }
        />
      )}
      <PageAimLine photoId={weighing.id} />
      <FormatSwitches formats={formats.value} onChange={formats.send} />
      <div className="flex min-h-7 items-center justify-between text-small text-soft">
        <span>
          {pixelWords(source)} px, {sizeWords(source.size_bytes)}
        </span>
        {search.state === 'running' && (
          <Button
            look="quiet"
            onClick={() => act.mutate(() => api.stopSearch(weighing.id, weighing.density))}
          >
            Stop weighing
          </Button>
        )}
        {search.state === 'stopped' && (
          <Button look="quiet" onClick={() => change({})}>
            Weigh on
          </Button>
        )}
      </div>
      {search.error_message && <p className="text-over">{search.error_message}</p>}
    </section>
  )
}

const BEST = 'best'

/** How it may look, with no more bytes than that takes; with one of its own where it has one. */
function useLevels(likeness: number | null) {
  const terms = useTerms().likeness_levels
  const levels = terms.map(({ least, words }) => ({ value: String(least), text: words }))
  const best = { value: BEST, text: 'the best it can' }
  if (likeness === null || terms.some(({ least }) => least === likeness)) return [...levels, best]
  return [{ value: String(likeness), text: `likeness ${likeness}` }, ...levels, best]
}

const LOOK = { className: 'w-[80px] text-lead font-semibold', labelClass: 'w-12 text-soft' }
