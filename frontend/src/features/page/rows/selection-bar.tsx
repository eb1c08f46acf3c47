import { api, type Page } from '@/api/client'
import { useSelectionActs, useTreatments } from '@/api/many'
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
  const acts = useSelectionActs(selection.ids)
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
            onSelect: () => acts.treat.mutate(id),
          })),
          'line',
          { text: 'All treatments', onSelect: onTreatments },
        ]}
      />
      <Field
        key={selection.ids.join(' ')}
        label="Aim"
        text=""
        onEnter={async (text) => acts.changeAims.mutate(aimOf(await api.readAim(text)))}
        placeholder="like 80 kB"
        className="w-28"
      />
      {page.default && (
        <Button look="small" onClick={() => acts.followPage.mutate(undefined)}>
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
          if (value !== 'mixed') acts.changeShares.mutate({ weight: Number(value) })
        }}
      />
      <Button look="small" disabled={ready === 0} onClick={() => acts.take.mutate(undefined)}>
        Take the best{ready > 0 ? ` of ${ready}` : ''}
      </Button>
      <Button look="small" onClick={() => acts.weigh.mutate(undefined)}>
        Weigh again
      </Button>
      <Menu
        label="More for the selection"
        items={[
          ...pages
            .filter(({ id }) => id !== page.id)
            .map(({ id, name }) => ({
              text: `Move to ${name}`,
              onSelect: () => acts.move.mutate(id, { onSuccess: selection.clear }),
            })),
          {
            text: count === 1 ? 'Remove the photo' : `Remove ${count} photos`,
            onSelect: () => acts.remove.mutate(undefined, { onSuccess: selection.clear }),
          },
        ]}
      />
      <Button look="quiet" className="ml-auto" hint="Escape does it too" onClick={selection.clear}>
        Select none
      </Button>
    </section>
  )
}
