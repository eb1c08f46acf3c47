import { useEffect, useRef } from 'react'

import type { Encode, Framed } from '@/api/client'
import { urls } from '@/api/urls'
import type { Size } from '@/ui/hooks/use-size'

import type { GlimpseOf } from '../tuning/use-tuning'

import { boxStyle } from './view'

type StageProps = { framed: Framed; isCrisp: boolean }
type GlimpseProps = StageProps & { glimpse: GlimpseOf; scale: number; background: string }

/** The framed original. */
export function OriginalPicture({ framed, isCrisp }: StageProps) {
  const size = { width: framed.width_px, height: framed.height_px }
  const src = urls.framedPixels(framed)
  return <Picture src={src} alt="Original, framed" sent={size} place={size} isCrisp={isCrisp} />
}

/** The real file of an encode, in the place of the framed original. */
export function CandidatePicture(props: StageProps & { encode: Encode; kind: string }) {
  const { framed, encode, kind, isCrisp } = props
  return (
    <Picture
      src={urls.encodedFile(encode)}
      alt={`${kind}, ${encode.name}`}
      sent={{ width: encode.width_px, height: encode.height_px }}
      place={{ width: framed.width_px, height: framed.height_px }}
      isCrisp={isCrisp}
    />
  )
}

/** A part of an encode that is being made, over the encode that is there, where the part lies. */
export function GlimpsePicture({ framed, glimpse, scale, background, isCrisp }: GlimpseProps) {
  const { box, url, wanted } = glimpse
  const share = framed.width_px / (wanted.width_px ?? framed.width_px)
  const place = {
    width: Math.round(box.width_px * share),
    height: Math.round(box.height_px * share),
  }
  return (
    <div
      className="absolute outline outline-dashed outline-white"
      style={{ ...boxStyle(box, scale * share), background }}
    >
      <Picture
        src={url}
        alt="Draft of the part in sight"
        sent={{ width: box.width_px, height: box.height_px }}
        place={place}
        isCrisp={isCrisp}
      />
    </div>
  )
}

/** An encode as it comes over a slow line, in the place of the framed original. */
export function ArrivingPicture({
  framed,
  encode,
  src,
}: {
  framed: Framed
  encode: Encode
  src: string
}) {
  return (
    <img
      src={src}
      alt={`Arriving, ${encode.name}, ${framed.width_px} px wide`}
      draggable={false}
      className="absolute inset-0 size-full select-none"
    />
  )
}

type Props = { src: string; alt: string; sent: Size; place: Size; isCrisp: boolean }

/**
 * A real file, decoded by the browser. With fewer pixels than its place it is enlarged by the
 * browser first, once, and zoomed then: what is looked at is what a visitor gets.
 */
function Picture({ src, alt, sent, place, isCrisp }: Props) {
  const look = `absolute inset-0 size-full select-none ${isCrisp ? 'crisp' : ''}`
  if (sent.width === place.width) {
    return <img src={src} alt={alt} draggable={false} decoding="sync" className={look} />
  }
  return <Enlarged src={src} alt={alt} place={place} look={look} />
}

type EnlargedProps = { src: string; alt: string; place: Size; look: string }

function Enlarged({ src, alt, place, look }: EnlargedProps) {
  const canvas = useRef<HTMLCanvasElement>(null)
  const { width, height } = place
  useEffect(() => {
    let isWanted = true
    const file = new Image()
    file.src = src
    file
      .decode()
      .then(() => {
        const context = canvas.current?.getContext('2d')
        if (!isWanted || !context) return
        context.clearRect(0, 0, width, height)
        context.drawImage(file, 0, 0, width, height)
      })
      .catch(() => undefined)
    return () => {
      isWanted = false
    }
  }, [src, width, height])
  return (
    <canvas
      ref={canvas}
      width={width}
      height={height}
      role="img"
      aria-label={alt}
      className={look}
    />
  )
}
