import { useState } from 'react'

import { api, type AimChange, type Place, type Weighing } from '@/api/client'
import { usePhotoAct, usePlaces } from '@/api/queries'
import { Button } from '@/ui/button'
import { Choice } from '@/ui/fields/choice'
import { DENSITIES, densityOf } from '@/ui/fields/densities'
import { Field } from '@/ui/fields/field'
import { Segments } from '@/ui/fields/segments'
import { isSamePlace, parsePixels } from '@/words'

import { Section } from '../sections/section'
import { FITS, readHeight } from './place-model'
import { PlacesEditor } from './places-editor'

const OWN = 'own'

/** Where the photo stands: one of the places, or numbers of its own. */
export function PlaceSection({ weighing }: { weighing: Weighing }) {
  const { place } = weighing.aim
  const places = usePlaces().data?.places ?? []
  const act = usePhotoAct(weighing.id)
  const [isEditing, setIsEditing] = useState(false)
  const change = (changes: AimChange) => act.mutate(() => api.changeAim(weighing.id, changes))
  const named = places.find((each) => isSamePlace(each.place, place))
  const options = places.map(({ id, name }) => ({ value: String(id), text: name }))
  return (
    <Section
      title="Place"
      beside={
        <Button look="quiet" aria-expanded={isEditing} onClick={() => setIsEditing(!isEditing)}>
          {isEditing ? 'Done' : 'Edit places'}
        </Button>
      }
    >
      {isEditing ? (
        <PlacesEditor places={places} place={place} />
      ) : (
        <>
          <Choice
            label="Stands as"
            value={named ? String(named.id) : OWN}
            options={named ? options : [{ value: OWN, text: 'Own place' }, ...options]}
            onChange={(id) => {
              const chosen = places.find((each) => String(each.id) === id)
              if (chosen) change({ ...chosen.place })
            }}
          />
          <PlaceNumbers place={place} onChange={change} />
        </>
      )}
    </Section>
  )
}

type NumbersProps = { place: Place; onChange: (change: AimChange) => void }

/** Width, height where it is fixed, fit and density of a place. */
function PlaceNumbers({ place, onChange }: NumbersProps) {
  const wide = 'w-40'
  return (
    <>
      <Field
        label="CSS width"
        labelClass="w-[108px] text-soft"
        className={wide}
        text={`${place.css_width_px} px`}
        read={parsePixels}
        problem="Write a width of 1 to 16384 CSS pixels."
        onEnter={(text) => onChange({ css_width_px: parsePixels(text) ?? place.css_width_px })}
      />
      <Field
        label="CSS height"
        labelClass="w-[108px] text-soft"
        className={wide}
        text={place.css_height_px === null ? 'as it comes' : `${place.css_height_px} px`}
        read={readHeight}
        problem="Write a height in CSS pixels, or nothing where it may be any."
        onEnter={(text) => onChange({ css_height_px: parsePixels(text) })}
      />
      {place.css_height_px !== null && (
        <div className="flex items-center justify-between">
          <span className="text-soft">Fills it by</span>
          <Segments
            label="Fit of the place"
            value={place.fit}
            options={FITS}
            onChange={(fit) => onChange({ fit })}
          />
        </div>
      )}
      <div className="flex items-center justify-between">
        <span className="text-soft">Density</span>
        <Segments
          label="Density"
          value={densityOf(place)}
          options={DENSITIES}
          onChange={(density) => onChange({ density: Number(density) })}
        />
      </div>
    </>
  )
}
