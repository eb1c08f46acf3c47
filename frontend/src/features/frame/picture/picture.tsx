import 'react-image-crop/dist/ReactCrop.css'

import { ReactCrop } from 'react-image-crop'

import type { Box, Weighing } from '@/api/client'
import { urls } from '@/api/urls'
import { type Size, useSize } from '@/ui/hooks/use-size'
import { pixelWords } from '@/words'

import type { FramingEditor } from '../use-framing'

import { fromPercent, isSameBox, ORIENTATIONS, toPercent, wholeOf } from './crop-model'
import { FocusPoint } from './focus-point'
import { TrimQuestion } from './trim-question'

const ROOM_PX = 28
const NOTHING = { x: 0, y: 0, width: 0, height: 0 }
const LABELS = {
  cropArea: 'Crop: move it with the arrow keys',
  nwDragHandle: 'Crop, top left corner',
  nDragHandle: 'Crop, top edge',
  neDragHandle: 'Crop, top right corner',
  eDragHandle: 'Crop, right edge',
  seDragHandle: 'Crop, bottom right corner',
  sDragHandle: 'Crop, bottom edge',
  swDragHandle: 'Crop, bottom left corner',
  wDragHandle: 'Crop, left edge',
}

type Props = { weighing: Weighing; framing: FramingEditor }

/** The whole photo as it is turned, with its crop. */
export function Picture({ weighing, framing }: Props) {
  const [ref, area] = useSize()
  const { picture, crop, straighten, aspect, ratio, margins } = framing
  const scale = Math.min(
    (area.width - 2 * ROOM_PX) / picture.width_px,
    (area.height - 2 * ROOM_PX) / picture.height_px,
  )
  const size = { width: picture.width_px * scale, height: picture.height_px * scale }
  const { plan } = weighing
  const isResting =
    isSameBox(crop.value, weighing.framing.crop) &&
    straighten.value === weighing.framing.straighten_deg
  const showsOutline = isResting && !isSameBox(plan.box, crop.value ?? wholeOf(picture))
  const percent = crop.value ? toPercent(crop.value, picture) : NOTHING
  return (
    <section
      aria-label="Picture"
      ref={ref}
      className="relative flex min-h-0 items-center justify-center overflow-hidden bg-stage"
    >
      {area.width > 0 && (
        <div className="relative" style={size}>
          <ReactCrop
            crop={{ unit: '%', ...percent }}
            {...(aspect === null ? {} : { aspect })}
            locked={ratio === 'exact'}
            ruleOfThirds
            ariaLabels={LABELS}
            onChange={(_, shown) => crop.show(fromPercent(shown, picture))}
            onComplete={(_, done) => crop.send(fromPercent(done, picture) ?? weighing.framing.crop)}
            className="ReactCrop--no-animate block"
          >
            <Turned weighing={weighing} degrees={straighten.value} scale={scale} size={size} />
          </ReactCrop>
          {showsOutline && <Outline box={plan.box} framing={framing} scale={scale} />}
          {weighing.plan.is_covered && <FocusPoint framing={framing} size={size} />}
          {margins.box && <Outline box={margins.box} framing={framing} scale={scale} />}
        </div>
      )}
      <p className="absolute bottom-2.5 left-2.5 rounded-sm bg-ink px-2 py-1 text-small text-white">
        {crop.value || showsOutline
          ? `Keeps ${pixelWords(isResting ? plan.box : (crop.value ?? picture))} of ${pixelWords(picture)}`
          : `All of ${pixelWords(picture)}. Drag on the picture to crop it`}
      </p>
      {margins.box !== undefined && <TrimQuestion framing={framing} />}
    </section>
  )
}

type TurnedProps = { weighing: Weighing; degrees: number; scale: number; size: Size }

/** The original turned as it is framed; what straightening pushes out is cut off. */
function Turned({ weighing, degrees, scale, size }: TurnedProps) {
  const { source, framing } = weighing
  return (
    <div className="relative overflow-hidden" style={size}>
      <img
        src={urls.preview(weighing.id)}
        alt={`${weighing.name}, the original`}
        draggable={false}
        className="absolute top-1/2 left-1/2 max-w-none select-none"
        style={{
          width: source.width_px * scale,
          height: source.height_px * scale,
          transform: `translate(-50%, -50%) rotate(${degrees}deg) ${ORIENTATIONS[framing.orientation]}`,
          background: framing.background,
        }}
      />
    </div>
  )
}

/** Outlines what is used, and dims the rest. */
function Outline({ box, framing, scale }: { box: Box; framing: FramingEditor; scale: number }) {
  const { picture } = framing
  return (
    <svg
      viewBox={`0 0 ${picture.width_px} ${picture.height_px}`}
      className="pointer-events-none absolute inset-0 size-full"
      aria-hidden
    >
      <path
        d={`M0 0h${picture.width_px}v${picture.height_px}h${-picture.width_px}z M${box.left_px} ${box.top_px}v${box.height_px}h${box.width_px}v${-box.height_px}z`}
        className="fill-ink/45"
      />
      <rect
        x={box.left_px}
        y={box.top_px}
        width={box.width_px}
        height={box.height_px}
        strokeWidth={1.5 / scale}
        strokeDasharray={`${6 / scale} ${4 / scale}`}
        className="fill-none stroke-white"
      />
    </svg>
  )
}
