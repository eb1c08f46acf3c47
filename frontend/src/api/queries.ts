/** Server data of photos and pages, and acts on them. */
import { skipToken, useMutation, useQuery, useQueryClient } from '@tanstack/react-query'

import { useRefresher } from './changes/refresh'
import { api, type Encode, type Mark, type Terms, type WantedEncode, type Weighing } from './client'
import { keys } from './keys'
import { useNoMoreTurns } from './turns'

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
  const queries = useQueryClient()
  return useMutation({
    mutationFn: api.reclaim,
    onSettled: () => queries.invalidateQueries({ queryKey: keys.room }),
  })
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

/** Whether an encode is taken, by what the page knows at the moment of asking. */
export function useIsPicked(photoId: number) {
  const client = useQueryClient()
  return (encodeId: number) =>
    client.getQueryData<Weighing>(weighingKey(photoId, 0))?.picked_ids.includes(encodeId) ?? false
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

/** Encodes after which a forecast is asked for again. */
const FORECAST_EVERY = 4

/** What other aims would come to: asked again where it follows from something else, or from some
 * encodes more. */
export function useForecasts({ id, density, framing, aim, search, encodes }: Weighing) {
  const told = search.state === 'done' ? 'all' : Math.floor(encodes.length / FORECAST_EVERY)
  const { formats, held } = aim
  return useQuery({
    queryKey: ['forecasts', id, density, framing, formats, held, told],
    queryFn: ({ signal }) => api.forecasts(id, density, signal),
    placeholderData: (before, query) => (query?.queryKey[1] === id ? before : undefined),
  }).data?.formats
}

/** What settings come to at each step of quality; asked again when more is measured, but not after
 * every encode of a search. */
export function useQualitySteps(weighing: Weighing, wanted: WantedEncode | null) {
  const { id, density, framing, encodes, search } = weighing
  const own = encodes.filter(({ settings }) => settings.format === wanted?.settings.format)
  const told = search.state === 'running' ? Math.floor(own.length / FORECAST_EVERY) : own.length
  return useQuery({
    queryKey: ['quality-steps', id, density, framing, wanted, search.state, told],
    queryFn: wanted ? ({ signal }) => api.qualitySteps(id, density, wanted, signal) : skipToken,
    placeholderData: (before, query) =>
      JSON.stringify(query?.queryKey[4]) === JSON.stringify(wanted) ? before : undefined,
  }).data?.steps
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

/** Something asked of the server about one photo, after what was asked before; done when the page
 * shows what came of it. */
export function usePhotoAct<R = unknown>(photoId: number) {
  const refresher = useRefresher()
  const endTurns = useNoMoreTurns(photoId)
  return useMutation({
    mutationFn: (ask: () => Promise<R>) => ask(),
    scope: { id: `photo ${photoId}` },
    onMutate: endTurns,
    onSettled: () => refresher.ofPhoto(photoId),
  })
}

export function useFindMargins(photoId: number) {
  return useMutation({ mutationFn: () => api.margins(photoId) })
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

/** An encode that a photo is compared with, of the size that it has or of another. */
export function usePinned({ id, framing, aim, encodes }: Weighing, encodeId: number | null) {
  const own = encodes.find((encode) => encode.id === encodeId)
  const { data } = useQuery({
    queryKey: ['pinned', id, framing, aim.place, encodeId],
    queryFn: own || !encodeId ? skipToken : ({ signal }) => api.pinned(id, encodeId, signal),
  })
  const other = data?.encode.id === encodeId ? data : undefined
  return {
    pinned: own ?? (other?.shows_the_same ? other.encode : undefined),
    isOfOtherSize: !own,
    isLetGo: other !== undefined && !other.shows_the_same,
  }
}

/** What the heavier of two encodes has over the lighter, if there are two. */
export function useBought(photoId: number, one: Encode | undefined, other: Encode | undefined) {
  const are = one !== undefined && other !== undefined && one.id !== other.id
  const { data } = useQuery({
    queryKey: ['bought', photoId, one?.id, other?.id],
    queryFn: async ({ signal }) => {
      if (!one?.worst) await rested(signal)
      return api.bought(photoId, one?.id ?? 0, other?.id ?? 0, signal)
    },
    enabled: are,
  })
  return are ? data : undefined
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
export function useArrival(photoId: number, encode: Encode) {
  return useQuery({
    queryKey: ['arrival', photoId, encode.id, encode.size_bytes],
    queryFn: ({ signal }) => api.arrival(photoId, encode.id, signal),
  })
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

/** Something asked of the server about pages and all that is on them, in the same way. */
export function useAct<R = unknown>() {
  const refresher = useRefresher()
  return useMutation({
    mutationFn: (ask: () => Promise<R>) => ask(),
    scope: { id: 'pages' },
    onSettled: () => refresher.ofPages(),
  })
}
