import { useState } from 'react'

import { api, type NamedPlace, type Place } from '@/api/client'
import { useAct } from '@/api/queries'
import { Button } from '@/ui/button'
import { Choice } from '@/ui/fields/choice'
import { DENSITIES, densityOf } from '@/ui/fields/densities'
import { Field } from '@/ui/fields/field'
import { NameField } from '@/ui/fields/name-field'
import { placeWords } from '@/words'

/** The named sizes, each of which can be changed, and the photo's as one more. */
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
          label="Name of the new size"
          name=""
          onDone={(name) => {
            setIsNaming(false)
            if (name) act.mutate(() => api.addPlace(name, place))
          }}
        />
      ) : (
        <Button onClick={() => setIsNaming(true)}>Name {placeWords(place)}</Button>
      )}
    </>
  )
}

function Row({ named }: { named: NamedPlace }) {
  const act = useAct()
  const { place } = named
  const set = (changes: Partial<Place>) =>
    act.mutateAsync(() => api.changePlace({ ...named, place: { ...place, ...changes } }))
  return (
    <li className="space-y-1 border-t border-hair py-1.5">
      <Field
        label={`Name of ${named.name}`}
        isLabelHidden
        className="w-48 font-sans font-semibold"
        text={named.name}
        read={(text) => text.trim() || null}
        problem="A size has a name."
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
      <Field
        label={`Size of ${named.name}`}
        isLabelHidden
        className="w-38"
        text={place.size}
        onEnter={(size) => set({ size })}
        after={
          <Choice
            label={`Density of ${named.name}`}
            isLabelHidden
            className="w-15 px-1"
            value={densityOf(place) || '1'}
            options={DENSITIES}
            onChange={(density) => void set({ density: Number(density) }).catch(() => undefined)}
          />
        }
      />
    </li>
  )
}
