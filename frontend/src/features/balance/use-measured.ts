import { useEffect, useRef, useState } from 'react'

import { api, type Balance, type BalanceWish } from '@/api/client'
import { useAct, useTerms } from '@/api/queries'

/** A balance of which what decides is measured as soon as it is opened. What is shown stands still
 * once it is measured, until somebody wants to see the better one that was found since. */
export function useMeasured(pageId: number, balance: Balance, wish: BalanceWish) {
  const act = useAct()
  const key = JSON.stringify([pageId, wish])
  const asked = useRef('')
  const measure = () => act.mutate(() => api.measureBalance(pageId, wish))
  const isReadOnly = useTerms().is_read_only
  const mayMeasure = balance.doubts > 0 && !balance.is_measuring && !isReadOnly
  useEffect(() => {
    if (!mayMeasure || asked.current === key) return
    asked.current = key
    measure()
  })
  const isSettled = !balance.is_measuring && !(mayMeasure && act.isPending)
  const before = balance.photos.map((photo) => photo.before?.id)
  const [kept, setKept] = useState<{ of: string; balance: Balance } | null>(null)
  const of = JSON.stringify([key, before])
  if (balance.is_measuring && kept) setKept(null)
  if (isSettled && kept?.of !== of) setKept({ of, balance })
  const shown = kept?.of === of ? kept.balance : balance
  return {
    shown,
    hasBetter: isSettled && picksOf(shown) !== picksOf(balance),
    showBetter: () => setKept({ of, balance }),
    isMeasuring: balance.is_measuring,
    mayMeasure: mayMeasure && !act.isPending,
    measure,
    stop: () => act.mutate(() => api.stopMeasuring(pageId)),
  }
}

const picksOf = ({ photos }: Balance) => photos.map(({ after }) => after.id).join()
