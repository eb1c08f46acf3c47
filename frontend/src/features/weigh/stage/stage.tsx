import { useState } from 'react'

import type { Encode, Framed } from '@/api/client'
import { type Size, useSize } from '@/ui/use-size'

import { Pane } from './pane'
import { CandidatePicture, OriginalPicture } from './picture'
import { StageToolbar } from './stage-toolbar'
import { tagOf } from './tags'
import { useLook } from './use-look'
import { usePan } from './use-pan'
import { useStageKeys } from './use-stage-keys'
import { scaleOf } from './view'
import { WipeLine, wipeLineAt } from './wipe-line'

type Props = {
  framed: Framed
  candidate: Encode | undefined
  isDraft: boolean
  against: Encode | undefined
  background: string
}

/** The original and a candidate at the same spot and zoom, side by side or one wiped over the other. */
export function Stage({ framed, candidate, isDraft, against, background }: Props) {
  const [look, setLook] = useLook()
  const [wipe, setWipe] = useState(50)
  const [ref, area] = useSize()
  const isOriginalHeld = useStageKeys(setLook)
  const { mode, zoom } = look

  const picture: Size = { width: framed.width_px, height: framed.height_px }
  const pane: Size = mode === 'side' ? { ...area, width: (area.width - 2) / 2 } : area
  const scale = scaleOf(zoom, picture, pane, window.devicePixelRatio)
  const { centre, bind } = usePan(picture, pane, scale, (to) => setLook({ zoom: to }), zoom)

  const view = { picture, pane, scale, centre, background }
  const shown = isOriginalHeld ? undefined : candidate
  const pinned = isOriginalHeld ? undefined : against
  const pictureProps = { framed, isCrisp: scale * window.devicePixelRatio > 1 }
  const original = <OriginalPicture {...pictureProps} />
  const left = (
    <Pane {...view} tag={tagOf(framed, pinned, 'Pinned ')}>
      {pinned ? <CandidatePicture {...pictureProps} encode={pinned} kind="Pinned" /> : original}
    </Pane>
  )
  const right = (
    <Pane {...view} tag={tagOf(framed, shown, isDraft ? 'Draft: ' : '')} isTagAtRight={mode === 'wipe'}>
      {shown ? <CandidatePicture {...pictureProps} encode={shown} kind="Candidate" /> : original}
    </Pane>
  )
  const waiting = <p className="m-auto text-ink">The first candidate comes here.</p>
  return (
    <section aria-label="Stage" className="grid min-h-0 grid-rows-[40px_1fr]">
      <StageToolbar look={look} onChange={setLook} />
      <div
        ref={ref}
        {...bind}
        tabIndex={0}
        role="group"
        aria-label="Pictures: drag or use the arrow keys to move"
        className="relative flex min-h-0 cursor-grab touch-none gap-0.5 overflow-hidden bg-stage focus-visible:-outline-offset-2 active:cursor-grabbing"
      >
        {area.width > 0 && left}
        {area.width > 0 && mode === 'side' && (candidate ? right : waiting)}
        {area.width > 0 && mode === 'wipe' && (
          <>
            {shown && (
              <div
                className="absolute inset-0"
                style={{ clipPath: `inset(0 0 0 ${wipeLineAt(wipe)})` }}
              >
                {right}
              </div>
            )}
            {candidate && <WipeLine value={wipe} height={area.height} onChange={setWipe} />}
          </>
        )}
      </div>
    </section>
  )
}
