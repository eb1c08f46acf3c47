import { type ChangeEvent, useRef, useState } from 'react'

import { api, type Page, type Treatment, type TreatmentFile } from '@/api/client'
import { useTreatments } from '@/api/many'
import { useAct } from '@/api/queries'
import { Button, buttonClass } from '@/ui/button'
import { Menu } from '@/ui/menu'

import type { Selection } from '../rows/use-selection'
import { Editor } from './editor'

type Props = { page: Page; selection: Selection; onClose: () => void }

/** Treatments to do to what is selected, or to the whole page; the one used last comes first. */
export function Treatments({ page, selection, onClose }: Props) {
  const treatments = useTreatments()
  const act = useAct()
  const [editedId, setEditedId] = useState<number | null>(null)
  const [begun, setBegun] = useState<TreatmentFile | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const file = useRef<HTMLInputElement>(null)
  const count = selection.ids.length
  const ids = count > 0 ? selection.ids : page.photos.map(({ id }) => id)

  const load = async (event: ChangeEvent<HTMLInputElement>) => {
    const [chosen] = event.target.files ?? []
    event.target.value = ''
    if (!chosen) return
    try {
      const read = JSON.parse(await chosen.text()) as TreatmentFile
      await act.mutateAsync(() => api.addTreatment(read))
      setProblem(null)
    } catch (error) {
      const why = error instanceof SyntaxError ? 'it is no JSON.' : String((error as Error).message)
      setProblem(`“${chosen.name}” is no treatment: ${why}`)
    }
  }

  return (
    <aside
      aria-label="Treatments"
      className="min-h-0 overflow-y-auto border-l border-line bg-sheet px-3.5 py-3"
    >
      <div className="flex items-start justify-between gap-2">
        <div>
          <h2 className="font-semibold">Treatments</h2>
          <p className="text-small text-soft">
            Framing, aim and settings under a name, for other photos. Crops and focus points stay
            with each photo; on a whole page, so do photos that you changed after it. One step back
            undoes it all.
          </p>
        </div>
        <Button onClick={onClose}>Close</Button>
      </div>
      <ul className="mt-3 space-y-3">
        {treatments.map((treatment) =>
          treatment.id === editedId ? (
            <Editor
              key={treatment.id}
              first={treatment.file}
              onKeep={(kept) => act.mutateAsync(() => api.changeTreatment(treatment.id, kept))}
              onDone={() => setEditedId(null)}
            />
          ) : (
            <Item
              key={treatment.id}
              treatment={treatment}
              ids={ids}
              isWholePage={count === 0}
              on={count === 0 ? 'the whole page' : count === 1 ? 'the photo' : `${count} photos`}
              onEdit={() => setEditedId(treatment.id)}
            />
          ),
        )}
        {begun && (
          <Editor
            first={begun}
            onKeep={(kept) => act.mutateAsync(() => api.addTreatment(kept))}
            onDone={() => setBegun(null)}
          />
        )}
      </ul>
      <div className="mt-4 border-t border-hair pt-3">
        <Button look="quiet" onClick={() => void api.treatmentOfPage(page.id).then(setBegun)}>
          New treatment
        </Button>
        <Button look="quiet" onClick={() => file.current?.click()}>
          Load a treatment from a file
        </Button>
        <input
          ref={file}
          type="file"
          accept="application/json,.json"
          aria-label="Treatment file"
          className="hidden"
          onChange={(event) => void load(event)}
        />
        <p className="text-small text-soft">
          To keep one of your own, choose “Keep as a treatment” on Weigh.
        </p>
        {problem && (
          <p role="alert" className="mt-1 text-over">
            {problem}
          </p>
        )}
      </div>
    </aside>
  )
}

type ItemProps = {
  treatment: Treatment
  ids: number[]
  isWholePage: boolean
  on: string
  onEdit: () => void
}

function Item({ treatment, ids, isWholePage, on, onEdit }: ItemProps) {
  const treating = useAct()
  const removing = useAct()
  const { name } = treatment.file
  const json = JSON.stringify(treatment.file, null, 2)
  return (
    <li className="border-t border-hair pt-3">
      <div className="flex items-start justify-between gap-1">
        <h3 className="font-semibold">{name}</h3>
        <Menu
          label={`More for ${name}`}
          items={[
            { text: 'Edit', onSelect: onEdit },
            {
              text: 'Remove',
              onSelect: () => removing.mutate(() => api.removeTreatment(treatment.id)),
            },
          ]}
        />
      </div>
      <p className="text-small text-soft">{treatment.words}</p>
      <div className="mt-1.5 flex gap-2">
        <Button
          look="small"
          aria-label={`Do it to ${on}: ${name}`}
          disabled={treating.isPending || ids.length === 0}
          onClick={() => treating.mutate(() => api.treat(ids, treatment.id, isWholePage))}
        >
          {treating.isPending ? 'Doing it …' : `Do it to ${on}`}
        </Button>
        <a
          className={buttonClass('quiet')}
          href={`data:application/json;charset=utf-8,${encodeURIComponent(json)}`}
          download={`${name}.treatment.json`}
        >
          Save as a file
        </a>
      </div>
    </li>
  )
}
