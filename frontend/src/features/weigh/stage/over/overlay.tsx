import type { Encode, Terms } from '@/api/client'
import { urls } from '@/api/urls'
import type { Size } from '@/ui/hooks/use-size'

const CELL_PX = 8

type Kind = Terms['damage_kinds'][number]
type Props = { photoId: number; encode: Encode; kind: Kind; picture: Size; scale: number }

/** Where an encode has a kind of damage, over its picture. */
export function Overlay({ photoId, encode, kind, picture, scale }: Props) {
  const size = (side: number) => Math.ceil(side / CELL_PX) * CELL_PX * scale
  return (
    <img
      src={urls.damageMap(photoId, encode.id, kind.kind)}
      alt={`Where ${kind.name} is seen`}
      draggable={false}
      className="pointer-events-none absolute top-0 left-0 max-w-none"
      style={{ width: size(picture.width), height: size(picture.height) }}
    />
  )
}

/** What the colour of an overlay means. */
export function OverlayLegend({ kind }: { kind: Kind }) {
  return (
    <p
      role="note"
      title={kind.sentence}
      className="absolute right-2.5 bottom-10 flex items-center gap-2 rounded-md border border-line bg-sheet px-2 py-1 text-small"
    >
      <b className="font-semibold">{kind.name}</b> slight
      <span className="inline-block h-2.5 w-16 border border-line bg-linear-to-r from-over/30 to-over" />
      strong
    </p>
  )
}
