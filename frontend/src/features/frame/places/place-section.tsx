import { useState } from 'react'

import { api, type AimChange, type Weighing } from '@/api/client'
import { usePhotoAct, usePlaces } from '@/api/queries'
import { Button } from '@/ui/button'
import { Choice } from '@/ui/fields/choice'
import { FewerPixels, SizeControls } from '@/ui/settings/size-controls'
import { isSamePlace, placeWords } from '@/words'

import { Section } from '../sections/section'
import type { FramingEditor } from '../use-framing'
import { PlacesEditor } from './places-editor'

const OWN = 'own'

type Props = { weighing: Weighing; framing: FramingEditor }

/** How large the photo stands: a size that is typed, or one that has a name. */
export function PlaceSection({ weighing, framing }: Props) {
  const { place } = weighing.aim
  const places = usePlaces().data?.places ?? []
  const act = usePhotoAct(weighing.id)
  const [isEditing, setIsEditing] = useState(false)
  const change = (changes: AimChange) => act.mutateAsync(() => api.changeAim(weighing.id, changes))
  const named = places.find((each) => isSamePlace(each.place, place))
  const options = places.map((each) => ({
    value: String(each.id),
    text: `${each.name}, ${placeWords(each.place)}`,
  }))
  return (
    <Section
      title="Size"
      beside={
        <Button look="quiet" aria-expanded={isEditing} onClick={() => setIsEditing(!isEditing)}>
          {isEditing ? 'Done' : 'Edit named sizes'}
        </Button>
      }
    >
      {isEditing ? (
        <PlacesEditor places={places} place={place} />
      ) : (
        <>
          <SizeControls weighing={weighing} onChange={change} labelClass="w-14 text-soft" />
          <FewerPixels weighing={weighing} onChange={change} />
          <Choice
            label="Used as"
            labelClass="w-14 shrink-0 text-soft"
            className="grow"
            value={named ? String(named.id) : OWN}
            options={named ? options : [{ value: OWN, text: 'Own size' }, ...options]}
            onChange={(id) => {
              const chosen = places.find((each) => String(each.id) === id)
              if (chosen) void change({ ...chosen.place }).catch(() => undefined)
            }}
          />
          <label className="flex items-center gap-2 text-small text-soft">
            <input
              type="checkbox"
              checked={framing.shown.may_enlarge}
              onChange={(event) => framing.change({ may_enlarge: event.target.checked })}
            />
            May be enlarged: more bytes, no detail
          </label>
        </>
      )}
    </Section>
  )
}
