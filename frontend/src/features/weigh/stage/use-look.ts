import { useSearchParams } from 'react-router'

import { type Mode, MODES, type Zoom, ZOOMS } from './view'

/** `overlay` is a kind of damage that is laid over; `againstId` is the encode that stands in the place of the original, if one was pinned. */
export type Look = {
  mode: Mode
  zoom: Zoom
  candidateId: number | null
  againstId: number | null
  overlay: string | null
  /** The density of the variants that are looked at; 0 is the photo as it is taken. */
  density: number
}

/** What is looked at and how, in the address: it survives a reload and can be shared. */
export function useLook(): [Look, (change: Partial<Look>) => void] {
  const [params, setParams] = useSearchParams()
  const look: Look = {
    mode: MODES.find((mode) => mode === params.get('mode')) ?? 'side',
    zoom: ZOOMS.find((zoom) => zoom === params.get('zoom')) ?? '1',
    candidateId: Number(params.get('candidate')) || null,
    againstId: Number(params.get('against')) || null,
    overlay: params.get('overlay'),
    density: Number(params.get('density')) || 0,
  }
  const change = (changes: Partial<Look>) =>
    setParams(
      () => {
        const { mode, zoom, candidateId, againstId, overlay, density } = { ...look, ...changes }
        return {
          mode,
          zoom,
          ...(candidateId ? { candidate: String(candidateId) } : {}),
          ...(againstId ? { against: String(againstId) } : {}),
          ...(overlay ? { overlay } : {}),
          ...(density ? { density: String(density) } : {}),
        }
      },
      { replace: true },
    )
  return [look, change]
}
