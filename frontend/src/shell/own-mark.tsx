import { api, type Page, type Photo, type Setting } from '@/api/client'
import { useAct, useTerms } from '@/api/queries'
import { Hint } from '@/ui/hint'
import { metadataWords } from '@/ui/settings/metadata-choice'
import { formatsWords, limitWords, looksWords } from '@/words'

type Props = { page: Page | undefined; photo: Photo | undefined; names: readonly Setting[] }

/** Marks what a photo has of its own, and takes it back to what its page has. */
export function OwnMark({ page, photo, names }: Props) {
  const act = useAct()
  const terms = useTerms()
  if (!page || !photo) return null
  const own = names.filter((name) => photo.own.includes(name))
  if (own.length === 0) return null
  const { settings } = page
  const words: Record<Setting, string> = {
    size: settings.size,
    density: `${settings.density}×`,
    limit_bytes: settings.limit_bytes === null ? 'any size' : limitWords(settings.limit_bytes),
    likeness: looksWords(settings.likeness, terms.likeness_levels),
    formats: settings.formats ? formatsWords(settings.formats, terms.formats) : 'by the picture',
    metadata: metadataWords(settings.metadata),
  }
  const back = `Its own. Back to the page’s ${own.map((name) => words[name]).join(', ')}`
  return (
    <Hint words={back}>
      <button
        type="button"
        aria-label={`${photo.name}: ${back}`}
        disabled={act.isPending}
        onClick={() => act.mutate(() => api.followPage([photo.id], own))}
        className="size-6 shrink-0 rounded-sm text-navy hover:bg-hair"
      >
        <svg viewBox="0 0 16 16" className="mx-auto size-3.5 fill-none stroke-current" aria-hidden>
          <path d="M6.5 3 3 6.5 6.5 10M3 6.5h6a4 4 0 0 1 0 8H6" strokeWidth="1.5" />
        </svg>
      </button>
    </Hint>
  )
}
