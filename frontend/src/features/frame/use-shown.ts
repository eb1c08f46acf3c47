import { useSearchParams } from 'react-router'

export const PANELS = ['framing', 'came-in', 'journal'] as const
export type PanelName = (typeof PANELS)[number]

/** The open panel, and up to two journal entries that are compared. */
type Shown = { panel: PanelName; compared: number[] }

/** What is open on the screen, in the address: it survives a reload. */
export function useShown(): [Shown, (change: Partial<Shown>) => void] {
  const [params, setParams] = useSearchParams()
  const shown: Shown = {
    panel: PANELS.find((panel) => panel === params.get('panel')) ?? 'framing',
    compared: (params.get('compared') ?? '').split('-').map(Number).filter(Boolean),
  }
  const change = (changes: Partial<Shown>) => {
    const { panel, compared } = { ...shown, ...changes }
    const pair = compared.length > 0 ? { compared: compared.join('-') } : {}
    setParams({ panel, ...pair }, { replace: true })
  }
  return [shown, change]
}
