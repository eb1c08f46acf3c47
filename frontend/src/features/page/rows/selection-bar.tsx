import { api, type Page } from '@/api/client'
import { useTreatments } from '@/api/many'
import { useAct } from '@/api/queries'
import { Button } from '@/ui/button'
import { Choice } from '@/ui/fields/choice'
import { Field } from '@/ui/fields/field'
import { Menu } from '@/ui/menu'
import { aimOf } from '@/words'

import type { Selection } from './use-selection'

type Props = { page: Page; pages: Page[]; selection: Selection; onTreatments: () => void }

const WEIGHTS = ['0.25', '0.5', '1', '2', '4'] as const

/** What can be done to the photos that are selected; each act is one step. */
export function SelectionBar({ page, pages, selection, onTreatments }: Props) {
  const { ids } = selection
  const act = useAct()
  const treatments = useTreatments()
  const chosen = page.photos.filter(({ id }) => selection.has(id))
  const count = chosen.length
  const weights = new Set(chosen.map(({ weight }) => String(weight)))
  const weight = WEIGHTS.find((each) => weights.size === 1 && weights.has(each)) ?? 'mixed'
  const ready = chosen.filter(({ best, pick }) => best && !pick).length
  return (
    <section
      aria-label="Selection"
      className="sticky top-0 z-10 flex flex-wrap items-center gap-x-3 gap-y-1 border border-ink bg-wash px-2.5 py-1.5"
    >
      <p role="status" className="font-semibold">
        {count} selected
      </p>
      <Menu
        label="Do a treatment"
        trigger="Do a treatment"
        items={[
          ...treatments.map(({ id, words, file }) => ({
            text: file.name,
            hint: words,
            onSelect: () => act.mutate(() => api.treat(ids, id, false)),
          })),
          'line',
          { text: 'All treatments', onSelect: onTreatments },
        ]}
      />
      <Field
        key={selection.ids.join(' ')}
        label="Aim"
        text=""
        onEnter={async (text) => {
          const aim = aimOf(await api.readAim(text))
          act.mutate(() => api.changeAims(ids, aim))
        }}
        placeholder="like 80 kB"
        className="w-28"
      />
      {page.default && (
        <Button look="small" onClick={() => act.mutate(() => api.followPage(ids))}>
          The page’s aim
        </Button>
      )}
      <Choice
        label="Weight"
        className="w-20"
        value={weight}
        options={[
          ...(weight === 'mixed' ? [{ value: 'mixed', text: 'mixed' } as const] : []),
          ...WEIGHTS.map((value) => ({ value, text: value })),
        ]}
        onChange={(value) => {
          if (value !== 'mixed') act.mutate(() => api.changeShares(ids, { weight: Number(value) }))
        }}
      />
      <Button
        look="small"
        disabled={ready === 0}
        onClick={() => act.mutate(() => api.takeBest(ids))}
      >
        Take the best{ready > 0 ? ` of ${ready}` : ''}
      </Button>
      <Button look="small" onClick={() => act.mutate(() => api.weighAgain(ids))}>
        Weigh again
      </Button>
      <Menu
        label="More for the selection"
        items={[
          ...pages
            .filter(({ id }) => id !== page.id)
            .map(({ id, name }) => ({
              text: `Move to ${name}`,
              onSelect: () =>
                act.mutate(() => api.movePhotos(ids, id), { onSuccess: selection.clear }),
            })),
          {
            text: count === 1 ? 'Remove the photo' : `Remove ${count} photos`,
            onSelect: () => act.mutate(() => api.removePhotos(ids), { onSuccess: selection.clear }),
          },
        ]}
      />
      <Button look="quiet" className="ml-auto" hint="Escape does it too" onClick={selection.clear}>
        Select none
      </Button>
    </section>
  )
}
