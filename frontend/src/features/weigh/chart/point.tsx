import type { Encode } from '@/api/client'
import { FORMAT_FILLS, FORMAT_SHAPES, FORMAT_STROKES } from '@/ui/format-mark'
import { likenessNumber, pixelWords, sizeWords } from '@/words'

import { worstWords } from '../spots/kinds'

type Props = {
  encode: Encode
  at: [number, number]
  scale: number
  isAgainst: boolean
  onSelect: () => void
  onHover: (encode: Encode | null) => void
}

/** A measured encode; a click loads it in the stage. The table is its way by keyboard. */
export function Point({ encode, at, scale, isAgainst, onSelect, onHover }: Props) {
  const { format } = encode.settings
  return (
    <g
      transform={`translate(${at.join(' ')})`}
      className="cursor-pointer"
      onClick={onSelect}
      onPointerEnter={() => onHover(encode)}
      onPointerLeave={() => onHover(null)}
    >
      <circle r={7} className="fill-transparent" />
      {isAgainst && (
        <path d="M-9-9h18v18h-18z" className="fill-none stroke-ink" strokeWidth={1.5} />
      )}
      <path
        d={FORMAT_SHAPES[format]}
        transform={`scale(${scale})`}
        strokeWidth={encode.is_draft ? 2 : scale > 1 ? 1.2 : 0}
        className={
          encode.is_draft
            ? `fill-sheet ${FORMAT_STROKES[format]}`
            : `stroke-white ${FORMAT_FILLS[format]}`
        }
      >
        <title>{pointWords(encode)}</title>
      </path>
    </g>
  )
}

/** How a point was made and what it came to. */
export function pointWords(encode: Encode): string {
  const made = `${encode.name}, ${encode.setting_words}, ${pixelWords(encode)} px`
  const worst = encode.worst ? `, ${worstWords(encode.worst)}` : ''
  const draft = encode.is_draft ? ', a draft' : ''
  return `${made}: ${sizeWords(encode.size_bytes)}, likeness ${likenessNumber(encode.likeness)}${draft}${worst}`
}
