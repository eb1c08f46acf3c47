import { useState } from 'react'
import { Link } from 'react-router'

import { api, type Encode, type Weighing } from '@/api/client'
import { urls } from '@/api/urls'
import { useFileName } from '@/api/delivery'
import { useAct, usePhotoAct, useTerms } from '@/api/queries'
import { paths, useWhere } from '@/shell/where'
import { Button, buttonClass } from '@/ui/button'
import { NameField } from '@/ui/fields/name-field'
import { Menu } from '@/ui/menu'

import { KeepTreatment } from './keep-treatment'

type Props = {
  weighing: Weighing
  selected: Encode | undefined
  /** Whether there is something that may be taken without a second thought. */
  isGood: boolean
  isDraft: boolean
  against: Encode | undefined
  onPin: (encodeId: number | null) => void
}

/** What is done with the encode that is looked at, always at the foot of the column. */
export function ActionBar({ weighing, selected, isGood, isDraft, against, onPin }: Props) {
  const [isKeeping, setIsKeeping] = useState(false)
  const [kept, setKept] = useState('')
  const taking = useTaking(weighing, selected, () => setKept(''))
  const isReadOnly = useTerms().is_read_only
  const { page } = useWhere()
  const act = useAct()
  const isPick = selected !== undefined && weighing.picked_ids.includes(selected.id)
  const next = page?.photos.find((each) => each.id !== weighing.id && !each.pick)
  const isOwn = weighing.density === 0
  const savingTakes = isOwn && weighing.picked_ids.length === 0 && !isReadOnly
  return (
    <section
      aria-label="Decision"
      className="border-t border-line bg-sheet px-3.5 pt-2 pb-3 narrow:fixed narrow:inset-x-0 narrow:bottom-0 narrow:z-10"
    >
      {isKeeping && selected && (
        <KeepTreatment
          photoId={weighing.id}
          selected={selected}
          onDone={(name) => {
            setIsKeeping(false)
            setKept(name)
          }}
        />
      )}
      <div className="flex min-h-6 items-center justify-between gap-2 text-small text-soft">
        {selected && !isDraft && <FileName weighing={weighing} selected={selected} />}
        <span role="status" className="shrink-0">
          {kept ? `Kept as ${kept}.` : isPick && isOwn ? 'Taken.' : ''}
        </span>
        {isPick && isOwn && next && (
          <Link className="shrink-0 py-1 text-navy hover:underline" to={paths.weigh(next.id)}>
            Next photo
          </Link>
        )}
      </div>
      <div className="mt-1 flex gap-2">
        {selected && !isDraft && weighing.chosen_ids.includes(selected.id) ? (
          <Button disabled={taking.isPending} onClick={taking.putBack}>
            Put back
          </Button>
        ) : (
          <Button
            look={isGood ? 'main' : 'plain'}
            disabled={!selected || isDraft || isPick || taking.isPending}
            onClick={taking.take}
          >
            Take {selected?.name ?? 'it'}
          </Button>
        )}
        {selected && !isDraft ? (
          <a
            className={buttonClass(isPick ? 'main' : 'plain')}
            href={urls.download(weighing.id, selected.id)}
            title={savingTakes ? 'Takes it too' : undefined}
            onClick={() => savingTakes && taking.take()}
            download
          >
            Save file
          </a>
        ) : (
          <Button disabled>Save file</Button>
        )}
        <span className="ml-auto self-center">
          <Menu
            label="More of this file"
            items={[
              {
                text: 'Pin',
                hint: 'Keeps this one in view, to compare others with',
                isDisabled: !selected || isDraft || against?.id === selected.id,
                onSelect: () => selected && onPin(selected.id),
              },
              { text: 'Unpin', isDisabled: !against, onSelect: () => onPin(null) },
              {
                text: 'Keep as a treatment …',
                hint: 'What was decided here under a name, for other photos',
                isDisabled: !selected || isDraft,
                onSelect: () => setIsKeeping(true),
              },
              {
                text: `All of ${page?.name ?? 'the page'} as this photo`,
                hint: 'Its size, limit, looks, formats and metadata become the settings of the page',
                isDisabled: !page,
                onSelect: () => act.mutate(() => api.pageAsPhoto(weighing.id)),
              },
            ]}
          />
        </span>
      </div>
    </section>
  )
}

/** The name under which the file is saved; a click writes another. */
function FileName({ weighing, selected }: { weighing: Weighing; selected: Encode }) {
  const act = useAct()
  const { data } = useFileName(weighing.id, selected.id)
  const [isNaming, setIsNaming] = useState(false)
  const density = weighing.density || weighing.aim.place.density
  if (!data) return null
  if (isNaming) {
    return (
      <div className="grow">
        <NameField
          label="Name of the file"
          name={data.name}
          onDone={(name) => {
            setIsNaming(false)
            const format = selected.settings.format
            if (name) act.mutate(() => api.nameFile(weighing.id, { density, format, name }))
          }}
        />
      </div>
    )
  }
  return (
    <button
      type="button"
      title="Click to name the file"
      className="num min-w-0 truncate py-1 text-left hover:underline"
      onClick={() => setIsNaming(true)}
    >
      {data.name}
    </button>
  )
}

/** Taking an encode as the pick, or as the variant of its format. */
function useTaking({ id, density }: Weighing, selected: Encode | undefined, onTake: () => void) {
  const act = usePhotoAct(id)
  const set = (encodeId: number | null) => {
    if (!selected) return
    onTake()
    const format = selected.settings.format
    act.mutate(() =>
      density === 0 ? api.setPick(id, encodeId) : api.pickVariant(id, density, format, encodeId),
    )
  }
  return {
    isPending: act.isPending,
    take: () => set(selected?.id ?? null),
    putBack: () => set(null),
  }
}
