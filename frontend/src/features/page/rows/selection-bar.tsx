import { api, type Page, type Photo } from '@/api/client'
import { useTreatments } from '@/api/many'
import { useAct } from '@/api/queries'
import { Button } from '@/ui/button'
import { Menu } from '@/ui/menu'
import { SettingsFields, type Shown } from '../settings/fields'
import type { Selection } from './use-selection'

type Props = { page: Page; pages: Page[]; selection: Selection; onTreatments: () => void }

const WEIGHTS = [0.25, 0.5, 1, 2, 4]

/** What can be done to the photos that are selected; each act is one step. */
export function SelectionBar({ page, pages, selection, onTreatments }: Props) {
  const { ids } = selection
  const act = useAct()
  const treatments = useTreatments()
  const chosen = page.photos.filter(({ id }) => selection.has(id))
  const count = chosen.length
  const weights = new Set(chosen.map(({ weight }) => weight))
  const ready = chosen.filter(({ is_ready, pick }) => is_ready && !pick).length
  return (
    <section
      aria-label="Selection"
      className="sticky top-0 z-10 flex flex-wrap items-center gap-x-2.5 gap-y-1.5 border border-ink text-small bg-wash px-2.5 py-1.5"
    >
      <p role="status" className="font-semibold">
        {count} selected
      </p>
      <SettingsFields
        key={selection.ids.join(' ')}
        isShort
        shown={shownOf(chosen)}
        onChange={(changes) => act.mutateAsync(() => api.changeAims(ids, changes))}
      />
      <Button
        look={ready > 0 ? 'main' : 'small'}
        className="py-1"
        disabled={ready === 0}
        onClick={() => act.mutate(() => api.takeBest(ids))}
      >
        {ready > 0 ? `Take ${ready} that ${ready === 1 ? 'is' : 'are'} ready` : 'None is ready'}
      </Button>
      <Menu
        label="Treatment"
        trigger="Treatment"
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
      <Menu
        label="More for the selection"
        items={[
          {
            text: 'Back to the settings of the page',
            isDisabled: chosen.every(({ own }) => own.length === 0),
            onSelect: () => act.mutate(() => api.followPage(ids)),
          },
          { text: 'Weigh again', onSelect: () => act.mutate(() => api.weighAgain(ids)) },
          'line',
          ...WEIGHTS.map((each) => ({
            text: `Counts ${each}× in a balance`,
            isDisabled: weights.size === 1 && weights.has(each),
            onSelect: () => act.mutate(() => api.changeShares(ids, { weight: each })),
          })),
          'line',
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
      <Button
        look="quiet"
        className="ml-auto"
        hint="Escape does it too"
        aria-label="Select none"
        onClick={selection.clear}
      >
        None
      </Button>
    </section>
  )
}

/** What the chosen photos have in common. */
function shownOf(chosen: readonly Photo[]): Shown {
  const common = <T,>(of: (photo: Photo) => T): T | undefined => {
    const [first, ...others] = chosen.map(of)
    return others.every((other) => String(other) === String(first)) ? first : undefined
  }
  return {
    size: common(({ aim }) => aim.place.size),
    density: common(({ aim }) => aim.place.density),
    limit_bytes: common(({ aim }) => aim.limit_bytes),
    likeness: common(({ aim }) => aim.likeness),
    formats: common(({ aim }) => aim.formats),
  }
}
