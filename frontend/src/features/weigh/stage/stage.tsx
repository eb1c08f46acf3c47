import { useState } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'

import type { Box, Encode, Framed, Weighing } from '@/api/client'
import { urls } from '@/api/urls'
import { useTerms } from '@/api/queries'
import { UNLESS_TYPING } from '@/ui/keys'
import type { Size } from '@/ui/hooks/use-size'

import type { Arriving } from '../arrival/lines'
import { Rounds } from '../eye/rounds'
import type { Eye } from '../eye/use-eye'
import type { MarkedAreas } from '../spots/use-marks'
import type { ShownSpot } from '../spots/use-spots'
import type { GlimpseOf } from '../tuning/use-tuning'

import { Blink } from './compare/blink'
import { Difference } from './compare/difference'
import { Wipe } from './compare/wipe'
import { Frames } from './over/frames'
import { Marker } from './over/marker'
import { Overlay, OverlayLegend } from './over/overlay'
import { Pane } from './pane'
import { ArrivingPicture, CandidatePicture, GlimpsePicture, OriginalPicture } from './picture'
import { StageToolbar } from './stage-toolbar'
import { glimpseTag, tagOf } from './tags'
import { useLook } from './use-look'
import { usePan } from './use-pan'
import { useStageKeys } from './use-stage-keys'
import { type StageView, useCentre } from './use-view'
import { clamped, type Mode } from './view'

type Props = {
  weighing: Weighing
  framed: Framed
  candidate: Encode | undefined
  glimpse: GlimpseOf | null
  against: Encode | undefined
  view: StageView
  spot: ShownSpot | undefined
  marks: MarkedAreas
  arriving: Arriving | null
  eye: Eye
}

/** The original and a candidate at the same spot and zoom, in one of four ways. */
export function Stage(props: Props) {
  const { weighing, framed, candidate, glimpse, against, view, spot, marks, arriving, eye } = props
  const [look, setLook] = useLook()
  const { damage_kinds } = useTerms()
  const [isMarking, setIsMarking] = useState(false)
  const isOriginalHeld = useStageKeys(setLook)
  useHotkeys('m', () => setIsMarking((is) => !is), UNLESS_TYPING)
  const { mode, zoom } = look
  const { measure, area, pane, picture, scale, middle } = view
  const centre = useCentre(middle)
  const bind = usePan({
    picture,
    pane,
    scale,
    centre,
    zoom,
    setCentre: middle.set,
    onZoom: (to) => setLook({ zoom: to }),
  })

  const shown = isOriginalHeld ? undefined : candidate
  const pinned = isOriginalHeld ? undefined : against
  const pictureProps = { framed, isCrisp: scale * window.devicePixelRatio > 1 }
  const original = <OriginalPicture {...pictureProps} />
  const pictureOf = (encode: Encode, kind: string) =>
    arriving ? (
      <ArrivingPicture
        key={arriving.turn}
        framed={framed}
        encode={encode}
        src={urls.arriving(
          weighing.id,
          encode.id,
          arriving.line.kbit_s,
          arriving.line.round_trip_ms,
          arriving.turn,
        )}
      />
    ) : (
      <CandidatePicture {...pictureProps} encode={encode} kind={kind} />
    )
  const frames = <Frames frames={framesOf(spot, marks.areas)} scale={scale} />
  const marker = isMarking && (
    <Marker
      picture={picture}
      scale={scale}
      centre={clamped(centre, picture, pane, scale)}
      onLeave={() => setIsMarking(false)}
      onMark={(box, matters) => {
        marks.add(box, matters)
        setIsMarking(false)
      }}
    />
  )
  const kind = damage_kinds.find((each) => each.kind === look.overlay)
  const overlay = shown && kind && !glimpse && mode !== 'difference' && (
    <Overlay {...{ picture, scale, kind }} photoId={weighing.id} encode={shown} />
  )
  const paneProps = { picture, pane, scale, centre, background: backgroundOf(weighing, framed) }
  const shownTag = shown && glimpse ? glimpseTag(shown) : tagOf(framed, shown)
  const left = (
    <Pane
      {...paneProps}
      tag={mode === 'difference' ? undefined : tagOf(framed, pinned, 'Pinned ')}
      over={mode === 'side' ? marker || frames : undefined}
    >
      {pinned ? pictureOf(pinned, 'Pinned') : original}
    </Pane>
  )
  const right = (
    <Pane
      {...paneProps}
      tag={mode === 'difference' ? undefined : shownTag}
      isTagAtRight={mode === 'wipe'}
      over={
        <>
          {overlay}
          {mode !== 'difference' && frames}
          {mode !== 'side' && marker}
        </>
      }
    >
      {shown ? pictureOf(shown, 'Candidate') : original}
      {shown && glimpse && (
        <GlimpsePicture
          {...pictureProps}
          {...{ glimpse, scale }}
          background={paneProps.background}
        />
      )}
    </Pane>
  )
  return (
    <section
      aria-label="Stage"
      className="grid min-h-0 min-w-0 grid-cols-[minmax(0,1fr)] grid-rows-[auto_minmax(0,1fr)] narrow:h-[70vh] narrow:min-h-105 narrow:grid-rows-[auto_minmax(15rem,1fr)]"
    >
      <StageToolbar
        look={look}
        isMarking={isMarking}
        onMarking={() => setIsMarking((is) => !is)}
        onChange={setLook}
      />
      <div
        ref={measure}
        {...bind}
        tabIndex={0}
        role="group"
        aria-label="Pictures: drag or use the arrow keys to move"
        className="relative flex min-h-0 cursor-grab touch-none gap-0.5 overflow-clip bg-stage focus-visible:-outline-offset-2 active:cursor-grabbing"
      >
        {area.width > 0 && eye.series && (
          <Rounds
            {...{ eye, framed, view }}
            series={eye.series}
            background={paneProps.background}
          />
        )}
        {area.width > 0 && !eye.series && (
          <Compared mode={mode} pane={pane} left={left} right={right} hasCandidate={!!candidate} />
        )}
        {!eye.series && overlay && kind && <OverlayLegend kind={kind} />}
      </div>
    </section>
  )
}

type ComparedProps = {
  mode: Mode
  pane: Size
  left: React.ReactNode
  right: React.ReactNode
  hasCandidate: boolean
}

function Compared({ mode, pane, left, right, hasCandidate }: ComparedProps) {
  if (!hasCandidate) {
    if (mode !== 'side') return left
    return (
      <>
        {left}
        <p className="m-auto text-ink">The first candidate comes here.</p>
      </>
    )
  }
  switch (mode) {
    case 'side':
      return (
        <>
          {left}
          {right}
        </>
      )
    case 'wipe':
      return <Wipe pane={pane} under={left} over={right} />
    case 'blink':
      return <Blink first={left} second={right} />
    case 'difference':
      return <Difference first={left} second={right} />
  }
}

function backgroundOf(weighing: Weighing, framed: Framed): string {
  return framed.is_transparent ? weighing.framing.background : 'none'
}

function framesOf(spot: ShownSpot | undefined, areas: { box: Box; matters: boolean }[]) {
  const marked = areas.map(({ box, matters }) => ({
    box,
    look: matters ? ('matters' as const) : ('ignored' as const),
  }))
  const chosen = spot ? [{ box: spot.box, name: spot.name, look: 'spot' as const }] : []
  return [...marked, ...chosen]
}
