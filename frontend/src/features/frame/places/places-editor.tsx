import { useState } from 'react'

import { api, type NamedPlace, type Place } from '@/api/client'
import { useAct } from '@/api/queries'
import { Button } from '@/ui/button'
import { Choice } from '@/ui/fields/choice'
import { DENSITIES, densityOf } from '@/ui/fields/densities'
import { Field } from '@/ui/fields/field'
import { NameField } from '@/ui/fields/name-field'
import { parsePixels, placeWords } from '@/words'

import { FITS, readHeight } from './place-model'

/** The list of places, each of which can be changed, and the photo's numbers as one more. */
export function PlacesEditor({ places, place }: { places: NamedPlace[]; place: Place }) {
  const act = useAct()
  const [isNaming, setIsNaming] = useState(false)
  return (
    <>
      <ul>
        {places.map((each) => (
          <Row key={each.id} named={each} />
        ))}
      </ul>
      {isNaming ? (
        <NameField
          label="Name of the new place"
          name=""
          onDone={(name) => {
            setIsNaming(false)
            if (name) act.mutate(() => api.addPlace(name, place))
          }}
        />
      ) : (
        <Button onClick={() => setIsNaming(true)}>Keep {placeWords(place)} as a place</Button>
      )}
    </>
  )
}

function Row({ named }: { named: NamedPlace }) {
  const act = useAct()
  const { place } = named
  const set = (changes: Partial<Place>) =>
    act.mutate(() => api.changePlace({ ...named, place: { ...place, ...changes } }))
  return (
    <li className="space-y-1 border-t border-hair py-1.5">
      <Field
        label={`Name of ${named.name}`}
        isLabelHidden
        className="w-48 font-sans font-semibold"
        text={named.name}
        read={(text) => text.trim() || null}
        problem="A place has a name."
        onEnter={(name) => act.mutate(() => api.changePlace({ ...named, name: name.trim() }))}
        after={
          <Button
            look="quiet"
            aria-label={`Remove ${named.name}`}
            onClick={() => act.mutate(() => api.removePlace(named.id))}
          >
            Remove
          </Button>
        }
      />
      <div className="flex items-center gap-1">
        <Field
          label={`Width of ${named.name}`}
          isLabelHidden
          className="w-14"
          text={String(place.css_width_px)}
          read={parsePixels}
          problem="1 to 16384"
          onEnter={(text) => set({ css_width_px: parsePixels(text) ?? place.css_width_px })}
        />
        <span className="text-soft">×</span>
        <Field
          label={`Height of ${named.name}`}
          isLabelHidden
          className="w-[54px]"
          text={place.css_height_px === null ? 'any' : String(place.css_height_px)}
          read={(text) => (text.trim() === 'any' ? 'any' : readHeight(text))}
          problem="Pixels, or any"
          onEnter={(text) => set({ css_height_px: parsePixels(text) })}
        />
        <Choice
          label={`Density of ${named.name}`}
          isLabelHidden
          className="w-[60px] px-1"
          value={densityOf(place) || '1'}
          options={DENSITIES}
          onChange={(density) => set({ density: Number(density) })}
        />
        {place.css_height_px !== null && (
          <Choice
            label={`Fit of ${named.name}`}
            isLabelHidden
            className="w-[76px] px-1"
            value={place.fit}
            options={FITS}
            onChange={(fit) => set({ fit })}
          />
        )}
      </div>
    </li>
  )
}
