import { useEffect, useRef } from 'react'

import type { Size } from '@/ui/use-size'

type Props = { src: string; alt: string; sent: Size; place: Size; crisp: boolean }

/**
 * A real file, decoded by the browser. With fewer pixels than its place it is enlarged by the
 * browser first, once, and zoomed then: what is looked at is what a visitor gets.
 */
export function Picture({ src, alt, sent, place, crisp }: Props) {
  const look = `absolute inset-0 size-full select-none ${crisp ? 'crisp' : ''}`
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
    <canvas ref={canvas} width={width} height={height} role="img" aria-label={alt} className={look} />
  )
}
