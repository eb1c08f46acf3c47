/** Server data and acts of many photos at once: treatments, selections, batches and balances. */
import { keepPreviousData, useQuery } from '@tanstack/react-query'

import {
  type AimChange,
  api,
  type BalanceWish,
  type KeptTreatment,
  type Shares,
  type TreatmentFile,
  type Wire,
} from './client'
import { keys } from './keys'
import { useAct } from './queries'

export function useTreatments() {
  return useQuery({ queryKey: keys.treatments, queryFn: api.treatments }).data?.treatments ?? []
}

export function useTreatmentActs() {
  return {
    add: useAct(keys.pages, (file: TreatmentFile) => api.addTreatment(file)),
    keep: useAct(keys.pages, (kept: KeptTreatment) => api.keepTreatment(kept)),
    change: useAct(keys.pages, ({ id, file }: { id: number; file: TreatmentFile }) =>
      api.changeTreatment(id, file),
    ),
    remove: useAct(keys.pages, (treatmentId: number) => api.removeTreatment(treatmentId)),
  }
}

/** Acts on photos by their ids, each one step; a treatment may spare the exceptions to it. */
export function useSelectionActs(ids: number[], sparesExceptions = false) {
  return {
    treat: useAct(keys.pages, (treatmentId: number) =>
      api.treat(ids, treatmentId, sparesExceptions),
    ),
    changeAims: useAct(keys.pages, (changes: AimChange) => api.changeAims(ids, changes)),
    followPage: useAct(keys.pages, () => api.followPage(ids)),
    changeShares: useAct(keys.pages, (shares: Shares) => api.changeShares(ids, shares)),
    move: useAct(keys.pages, (pageId: number) => api.movePhotos(ids, pageId)),
    remove: useAct(keys.pages, () => api.removePhotos(ids)),
    take: useAct(keys.pages, () => api.takeBest(ids)),
    weigh: useAct(keys.pages, () => api.weighAgain(ids)),
  }
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

export function useBatchActs(pageId: number) {
  return {
    stop: useAct(keys.pages, () => api.stopBatch(pageId)),
    resume: useAct(keys.pages, () => api.resumeBatch(pageId)),
    end: useAct(keys.pages, () => api.endBatch(pageId)),
  }
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

export function useBalanceActs(pageId: number) {
  return {
    measure: useAct(keys.pages, (wish: BalanceWish) => api.measureBalance(pageId, wish)),
    stop: useAct(keys.pages, () => api.stopMeasuring(pageId)),
    take: useAct(keys.pages, (picks: Wire['PhotoPick'][]) => api.takeBalance(pageId, picks)),
  }
}
