/** Server data, its cache keys, and the stream of changes that keeps it true. */
import {
  type QueryClient,
  type QueryFilters,
  useMutation,
  useQuery,
  useQueryClient,
} from '@tanstack/react-query'
import { useEffect, useState } from 'react'

import { listen } from './changes'
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
  type PageRow,
  type Pages,
  type PhotoChange,
  type Place,
  type Terms,
  type WantedEncode,
  type Weighing,
} from './client'

export const keys = {
  pages: ['pages'] as const,
  places: ['pages', 'places'] as const,
  treatments: ['pages', 'treatments'] as const,
  batches: ['pages', 'batches'] as const,
  deliveries: ['pages', 'deliveries'] as const,
  /** Visits are begun, not read: there is nothing to fetch again. */
  visit: 'visit',
  library: ['library'] as const,
  room: ['room'] as const,
  photo: (photoId: number) => ['photo', photoId] as const,
}

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

export function useFindings(photoId: number) {
  return useQuery({
    queryKey: [...keys.photo(photoId), 'findings'],
    queryFn: ({ signal }) => api.findings(photoId, signal),
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

/**
 * Fetches again what the server says has changed; everything, after a connection was lost. Whether
 * one is lost now is returned.
 */
export function useChanges(): boolean {
  const queries = useQueryClient()
  const [isLost, setIsLost] = useState(false)
  useEffect(() => {
    const refreshRow = rowRefresher(queries)
    const refreshWholes = atMostEvery(WHOLES_MS, () => {
      void fetchAgain(queries, { queryKey: keys.batches })
      void fetchAgain(queries, { queryKey: keys.deliveries })
    })
    return listen((changes) => {
      setIsLost(changes === 'lost')
      if (changes === 'lost') {
        // Whether the server is gone, or asks for its token, is told by an answer of its own.
        void fetchAgain(queries, { queryKey: keys.pages, exact: true })
        return
      }
      if (changes === 'again') {
        void fetchAgain(queries, { predicate: ({ queryKey }) => queryKey[0] !== keys.visit })
        return
      }
      const ids = changes.photo_ids
      for (const id of ids) void fetchAgain(queries, { queryKey: keys.photo(id) })
      if (ids.length > 0) refreshWholes()
      if (changes.has_pages || ids.length > MANY_ROWS) {
        void fetchAgain(queries, { queryKey: keys.pages })
      } else for (const id of ids) void refreshRow(id)
    })
  }, [queries])
  return isLost
}

/** Fetches that are followed by another. */
const followed = new WeakSet<Promise<unknown>>()

/**
 * Fetches again what is shown. A fetch that is under way may have read what was before: it goes on,
 * so that news which comes faster than answers cannot keep them all from coming, and is followed by
 * one other.
 */
function fetchAgain(queries: QueryClient, filters: QueryFilters) {
  for (const { state, promise, queryKey } of queries.getQueryCache().findAll(filters)) {
    if (!promise || state.fetchStatus !== 'fetching' || followed.has(promise)) continue
    followed.add(promise)
    // Once what it brought has been taken in.
    const again = () => setTimeout(() => void fetchAgain(queries, { queryKey, exact: true }))
    promise.then(again, again)
  }
  return queries.invalidateQueries(filters, { cancelRefetch: false })
}

/** The batch of a page and what is handed over of it are wholes, and fetched as such: so often while
 * photos change. */
const WHOLES_MS = 700

/** Does something at once, and whatever comes in the meantime once more at the end of it. */
function atMostEvery(duration_ms: number, act: () => unknown) {
  let isWaiting = false
  let isAgain = false
  return function ask() {
    if (isWaiting) {
      isAgain = true
      return
    }
    isWaiting = true
    act()
    setTimeout(() => {
      isWaiting = false
      if (isAgain) {
        isAgain = false
        ask()
      }
    }, duration_ms)
  }
}

/** From so many on, the whole list is fetched. */
const MANY_ROWS = 8

/** Fetches the row of a photo on its page, at most once at a time, and the last state at the end;
 * the whole list where that is on its way, and might come with what was before. */
function rowRefresher(queries: QueryClient) {
  const awaited = new Map<number, 'once' | 'again'>()
  return async function refresh(photoId: number): Promise<void> {
    if (queries.isFetching({ queryKey: keys.pages, exact: true }) > 0) {
      void fetchAgain(queries, { queryKey: keys.pages, exact: true })
      return
    }
    if (awaited.has(photoId)) {
      awaited.set(photoId, 'again')
      return
    }
    awaited.set(photoId, 'once')
    try {
      const row = await api.row(photoId)
      queries.setQueryData<Pages>(keys.pages, (pages) => pages && withRow(pages, row))
    } catch {
      void queries.invalidateQueries({ queryKey: keys.pages })
    }
    const isAgain = awaited.get(photoId) === 'again'
    awaited.delete(photoId)
    if (isAgain) await refresh(photoId)
  }
}

function withRow(pages: Pages, { page_id, photo, totals }: PageRow): Pages {
  return {
    ...pages,
    pages: pages.pages.map((page) => {
      if (page.id !== page_id) return page
      const photos = page.photos.map((other) => (other.id === photo.id ? photo : other))
      return { ...page, totals, photos }
    }),
  }
}

/** An act on one photo, after those before it; done when the page shows what came of it. */
function usePhotoAct<T>(photoId: number, act: (value: T) => Promise<unknown>) {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: act,
    scope: { id: `photo ${photoId}` },
    onSettled: () =>
      Promise.all([
        queries.invalidateQueries({ queryKey: keys.photo(photoId) }),
        queries.invalidateQueries({ queryKey: keys.pages }),
      ]),
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

/** What is wrong with an encode; nothing while none is looked at. */
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
