import { api, type AimChange, type Setting, type Terms, type Weighing } from '@/api/client'
import { useIsPicked, usePhotoAct, useTerms } from '@/api/queries'
import { readSize } from '@/api/typed'
import { OwnMark } from '@/shell/own-mark'
import { useWhere } from '@/shell/where'
import { Button } from '@/ui/button'
import { ColourField } from '@/ui/fields/colour-field'
import { Field } from '@/ui/fields/field'
import { LooksChoice } from '@/ui/settings/looks'
import { FewerPixels, SizeControls } from '@/ui/settings/size-controls'
import { useDraft } from '@/ui/fields/use-draft'
import { limitWords } from '@/words'

import { FormatSwitches } from './format-switches'
import { HeldKnobs } from './held-knobs'

type Props = {
  weighing: Weighing
  /** What was taken is of the size before, and was put back. */
  onLetGo: (pickedId: number) => void
}

/** What the photo may weigh and where it stands. A change starts a new search. */
export function AimPanel({ weighing, onLetGo }: Props) {
  const { aim, framed, framing, picked_ids } = weighing
  const act = usePhotoAct(weighing.id)
  const isPicked = useIsPicked(weighing.id)
  const changeAsync = (changes: AimChange) =>
    act.mutateAsync(() => api.changeAim(weighing.id, changes))
  const change = (changes: AimChange) => act.mutate(() => api.changeAim(weighing.id, changes))
  const formats = useDraft(aim.formats, (formats) => changeAsync({ formats }))
  const { page, photo } = useWhere()
  const terms = useTerms().formats
  const own = (...names: Setting[]) => <OwnMark page={page} photo={photo} names={names} />
  const place = aim.place
  return (
    <section aria-label="Aim" className="space-y-2 border-b border-line px-3.5 py-2.5">
      <SizeControls
        weighing={weighing}
        onChange={async (changes) => {
          await changeAsync(changes)
          const [pickedId] = picked_ids
          if (pickedId !== undefined && !isPicked(pickedId)) onLetGo(pickedId)
        }}
        labelClass={LOOK.labelClass}
        after={own('size', 'density')}
      />
      <Field
        label="At most"
        text={aim.limit_bytes === null ? '' : limitWords(aim.limit_bytes)}
        placeholder="any size"
        onEnter={async (text) => changeAsync({ limit_bytes: await readSize(text) })}
        after={own('limit_bytes')}
        {...LOOK}
      />
      <div className="flex items-center gap-2">
        <div className="grow">
          <LooksChoice
            likeness={aim.likeness}
            className="grow"
            labelClass={LOOK.labelClass}
            onChange={(likeness) => change({ likeness })}
          />
        </div>
        {own('likeness')}
      </div>
      <details className="text-small">
        <summary className="cursor-pointer py-1 text-soft">{moreWords(weighing, terms)}</summary>
        <div className="mt-2 space-y-2">
          <FewerPixels weighing={weighing} onChange={changeAsync} />
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
          <div className="flex items-center justify-between gap-2">
            <div className="grow">
              <FormatSwitches formats={formats.value} onChange={formats.send} />
            </div>
            {own('formats')}
          </div>
        </div>
      </details>
      <HeldKnobs aim={aim} onRelease={() => change({ held: {} })} />
    </section>
  )
}

/** What stands behind the fields: formats, and that fewer pixels may do. */
function moreWords({ aim, plan }: Weighing, terms: Terms['formats']): string {
  const names = aim.formats.map((format) => terms.find((each) => each.format === format)?.name)
  return plan.may_have_fewer_pixels ? `${names.join(', ')}; fewer pixels` : names.join(', ')
}

const LOOK = { className: 'w-20 text-lead font-semibold', labelClass: 'w-12 text-soft' }
