/** Server data of photos and pages, and acts on them. */
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'

import { useRefresher } from './changes/refresh'
import {
  type AimChange,
  api,
  type Encode,
  type Format,
  type FramingChange,
  type LibraryChoice,
  type Mark,
  type NamedPlace,
  type PageChange,
  type PhotoChange,
  type Place,
  type Terms,
  type WantedEncode,
  type Weighing,
} from './client'
import { keys } from './keys'

export function usePages() {
  return useQuery({ queryKey: keys.pages, queryFn: ({ signal }) => api.pages(signal) })
}

export function usePlaces() {
  return useQuery({ queryKey: keys.places, queryFn: api.places })
}

export function useKnobs() {
  return useQuery({ queryKey: ['knobs'], queryFn: api.knobs })
}

const NO_TERMS: Terms = {
  formats: [],
  likeness_levels: [],
  damage_kinds: [],
  is_read_only: false,
}

/** Words and choices that are the same for every photo; none until they are loaded. */
export function useTerms(): Terms {
  return useQuery({ queryKey: ['terms'], queryFn: api.terms }).data ?? NO_TERMS
}

/** The room that the workspace takes, measured anew whenever it is wanted: that takes a while. */
export function useRoom(isWanted: boolean) {
  return useQuery({
    queryKey: keys.room,
    queryFn: ({ signal }) => api.room(signal),
    enabled: isWanted,
    staleTime: 0,
  })
}

/** Gives room back; photos that were removed too, where asked for. */
export function useReclaim() {
  return useAct(keys.room, (forgetsRemoved: boolean) => api.reclaim(forgetsRemoved))
}

export function useLibrary() {
  return useQuery({ queryKey: keys.library, queryFn: api.library })
}

/** A photo as it is taken, or at a density of its variants. */
export function useWeighing(photoId: number, density = 0) {
  return useQuery({
    queryKey: weighingKey(photoId, density),
    queryFn: ({ signal }) => api.weighing(photoId, density, signal),
  })
}

const weighingKey = (photoId: number, density: number) =>
  [...keys.photo(photoId), 'weighing', density] as const

/** What was found in the original, and by its search once that has ended: asked again only where
 * something differs that it follows from. */
export function useFindings({ id, framing, aim, search, candidate_ids }: Weighing) {
  const measured = search.state === 'done' ? candidate_ids : []
  return useQuery({
    queryKey: ['findings', id, framing, aim, measured],
    queryFn: ({ signal }) => api.findings(id, signal),
    placeholderData: (before, query) => (query?.queryKey[1] === id ? before : undefined),
  })
}

export function useJournal(photoId: number) {
  return useQuery({
    queryKey: [...keys.photo(photoId), 'journal'],
    queryFn: ({ signal }) => api.journal(photoId, signal),
  })
}

export function useComparison(photoId: number, firstId: number, secondId: number) {
  return useQuery({
    queryKey: [...keys.photo(photoId), 'comparison', firstId, secondId],
    queryFn: ({ signal }) => api.comparison(photoId, firstId, secondId, signal),
  })
}

/** An act on one photo, after those before it; done when the page shows what came of it. */
function usePhotoAct<T>(photoId: number, act: (value: T) => Promise<unknown>) {
  const refresher = useRefresher()
  return useMutation({
    mutationFn: act,
    scope: { id: `photo ${photoId}` },
    onSettled: () => refresher.ofAct(photoId),
  })
}

export function useChangeAim(photoId: number) {
  return usePhotoAct(photoId, (change: AimChange) => api.changeAim(photoId, change))
}

export function useChangeFraming(photoId: number) {
  return usePhotoAct(photoId, (change: FramingChange) => api.changeFraming(photoId, change))
}

export function useResetFraming(photoId: number) {
  return usePhotoAct(photoId, () => api.resetFraming(photoId))
}

export function useFindMargins(photoId: number) {
  return useMutation({ mutationFn: () => api.margins(photoId) })
}

/** Takes an encode, over the limit with a reason, or puts the pick back. */
export function useSetPick(photoId: number) {
  return usePhotoAct(photoId, (encodeId: number | null) => api.setPick(photoId, encodeId))
}

/** Hands another encode over as a variant, or the best that is found. */
export function usePickVariant(photoId: number, density: number) {
  return usePhotoAct(photoId, ({ format, encodeId }: { format: Format; encodeId: number | null }) =>
    api.pickVariant(photoId, density, format, encodeId),
  )
}

export function useGiveReason(photoId: number) {
  return usePhotoAct(photoId, (reason: string) => api.giveReason(photoId, reason))
}

/** How long an encode is looked at before its damage is searched for. */
const REST_MS = 400

/** The damage of an encode; one that nobody has examined is, once somebody stays with it. */
export function useDamage(photoId: number, encode: Encode | undefined, marks: Mark[]) {
  return useQuery({
    queryKey: ['damage', photoId, encode?.id, marks],
    queryFn: async ({ signal }) => {
      if (!encode?.worst) await rested(signal)
      return api.damage(photoId, encode?.id ?? 0, signal)
    },
    enabled: encode !== undefined,
  })
}

function rested(signal: AbortSignal): Promise<void> {
  return new Promise((resolve, reject) => {
    const timer = window.setTimeout(resolve, REST_MS)
    signal.addEventListener('abort', () => {
      window.clearTimeout(timer)
      reject(new DOMException('Nobody looks at it any more.', 'AbortError'))
    })
  })
}

/** How an encode arrives as it is handed out, once that is wanted. */
export function useArrival(photoId: number, encode: Encode, isWanted: boolean) {
  return useQuery({
    queryKey: ['arrival', photoId, encode.id, encode.size_bytes],
    queryFn: ({ signal }) => api.arrival(photoId, encode.id, signal),
    enabled: isWanted,
  })
}

export function useSetMarks(photoId: number) {
  return usePhotoAct(photoId, (marks: Mark[]) => api.setMarks(photoId, marks))
}

/** An encode by hand, shown as soon as it is measured. */
export function useMakeEncode(photoId: number, density: number) {
  const queries = useQueryClient()
  return async (wanted: WantedEncode) => {
    const made = await api.makeEncode(photoId, density, wanted)
    const key = weighingKey(photoId, density)
    queries.setQueryData<Weighing>(key, (kept) => kept && withEncode(kept, made))
    void queries.invalidateQueries({ queryKey: key })
    return made
  }
}

function withEncode(weighing: Weighing, made: Encode): Weighing {
  if (weighing.encodes.some(({ id }) => id === made.id)) return weighing
  return { ...weighing, encodes: [...weighing.encodes, made] }
}

export function useStopSearch(photoId: number, density: number) {
  return usePhotoAct(photoId, () => api.stopSearch(photoId, density))
}

/** Steps along a photo's journal. */
export function useSteps(photoId: number) {
  return {
    undo: usePhotoAct(photoId, () => api.undo(photoId)),
    redo: usePhotoAct(photoId, () => api.redo(photoId)),
    goBack: usePhotoAct(photoId, (entryId: number) => api.goBack(photoId, entryId)),
  }
}

/** An act on pages or places, after those before it; done when the page shows what came of it. */
export function useAct<T, R>(key: readonly string[], act: (value: T) => Promise<R>) {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: act,
    scope: { id: key.join(' ') },
    onSettled: () => queries.invalidateQueries({ queryKey: key }),
  })
}

/** Acts on the pages. */
export function usePageActs() {
  return {
    add: useAct(keys.pages, (name: string) => api.addPage(name)),
    change: useAct(keys.pages, ({ id, ...change }: PageChange & { id: number }) =>
      api.changePage(id, change),
    ),
    remove: useAct(keys.pages, (pageId: number) => api.removePage(pageId)),
    changePhoto: useAct(keys.pages, ({ id, ...change }: PhotoChange & { id: number }) =>
      api.changePhoto(id, change),
    ),
    removePhoto: useAct(keys.pages, (photoId: number) => api.removePhoto(photoId)),
    undo: useAct(keys.pages, () => api.undoOnPages()),
    redo: useAct(keys.pages, () => api.redoOnPages()),
  }
}

export function useAddFromLibrary() {
  return useAct(keys.pages, (choice: LibraryChoice) => api.addFromLibrary(choice))
}

/** Acts on the list of places. */
export function usePlaceActs() {
  return {
    add: useAct(keys.places, ({ name, place }: { name: string; place: Place }) =>
      api.addPlace(name, place),
    ),
    change: useAct(keys.places, (place: NamedPlace) => api.changePlace(place)),
    remove: useAct(keys.places, (placeId: number) => api.removePlace(placeId)),
  }
}
