/** Server data and acts of many photos at once: treatments, selections, batches and balances. */
import { keepPreviousData, useQuery } from '@tanstack/react-query'

import { api, type BalanceWish } from './client'
import { keys } from './keys'

export function useTreatments() {
  return useQuery({ queryKey: keys.treatments, queryFn: api.treatments }).data?.treatments ?? []
}

/** The batch of a page; asked again while it runs, for the time that is left. */
export function useBatch(pageId: number | undefined) {
  return useQuery({
    queryKey: [...keys.batches, pageId],
    queryFn: ({ signal }) => api.batch(pageId ?? 0, signal),
    enabled: pageId !== undefined,
    refetchInterval: ({ state }) => (state.data?.state === 'running' ? 2_000 : false),
  }).data
}

/** What a page's bytes would be spent on; the answer before stays in sight until the next is there. */
export function useBalance(pageId: number | undefined, wish: BalanceWish) {
  return useQuery({
    queryKey: [...keys.pages, pageId, 'balance', wish],
    queryFn: ({ signal }) => api.balance(pageId ?? 0, wish, signal),
    enabled: pageId !== undefined,
    placeholderData: keepPreviousData,
    retry: false,
  })
}
