import { useState } from 'react'

import {
  api,
  type Box,
  type FramingChange,
  type Sharpen,
  type Weighing,
  type Wire,
} from '@/api/client'
import { useFindMargins, usePhotoAct } from '@/api/queries'
import { useDraft } from '@/ui/fields/use-draft'

import { aspectOf, isSameBox, type Ratio, shapedBox, wholeOf } from './picture/crop-model'

export type FramingEditor = ReturnType<typeof useFraming>

/** The framing of a photo while hands are on it: what is shown on the way, and what is sent. */
export function useFraming(weighing: Weighing) {
  const { framing, plan } = weighing
  const picture = { width_px: plan.turned_width_px, height_px: plan.turned_height_px }
  const act = usePhotoAct(weighing.id)
  const resetting = usePhotoAct(weighing.id)
  const [wanted, setWanted] = useState<FramingChange>({})
  const margins = useFindMargins(weighing.id)
  const [ratio, setRatio] = useState<Ratio>('free')
  const change = (changes: FramingChange) => {
    setWanted(changes)
    return act.mutateAsync(() => api.changeFraming(weighing.id, changes))
  }

  const crop = useDraft<Box | null>(framing.crop, (box) =>
    isSameBox(box, framing.crop) ? Promise.resolve() : change({ crop: box }),
  )
  const straighten = useDraft(framing.straighten_deg, (degrees) =>
    change({ straighten_deg: degrees }),
  )
  const focus = useDraft<Wire['Focus']>(framing.focus, (point) => change({ focus: point }))
  const sharpen = useDraft<Sharpen>(framing.sharpen, (values) => change({ sharpen: values }))

  /** Takes a ratio up, and gives the crop its proportions at once. */
  const chooseRatio = (chosen: Ratio) => {
    setRatio(chosen)
    const aspect = aspectOf(chosen, picture)
    const from = crop.value ?? wholeOf(picture)
    if (aspect !== null) crop.send(shapedBox(from, aspect))
    if (chosen === 'exact' && !crop.value) crop.send(exactBox(from, weighing))
  }
  const turn = (way: FramingChange['turn']) => {
    if (way) void change({ turn: way }).catch(() => undefined)
    if (way !== 'flip') setRatio('free')
  }
  return {
    picture,
    /** The framing with what was just chosen and is being stored. */
    shown: act.isPending ? { ...framing, ...wanted } : framing,
    change: (changes: FramingChange) => void change(changes).catch(() => undefined),
    reset: () => {
      setRatio('free')
      resetting.mutate(() => api.resetFraming(weighing.id))
    },
    crop,
    straighten,
    focus,
    sharpen,
    ratio,
    aspect: aspectOf(ratio, picture),
    chooseRatio,
    turn,
    margins: {
      box: margins.data?.box,
      isLooking: margins.isPending,
      find: () => margins.mutate(),
      forget: () => margins.reset(),
    },
  }
}

/** As many pixels as the photo is framed to, in the middle. */
function exactBox(within: Box, { plan }: Weighing): Box {
  const width_px = Math.min(plan.width_px, within.width_px)
  const height_px = Math.min(plan.height_px, within.height_px)
  return {
    left_px: within.left_px + Math.floor((within.width_px - width_px) / 2),
    top_px: within.top_px + Math.floor((within.height_px - height_px) / 2),
    width_px,
    height_px,
  }
}
