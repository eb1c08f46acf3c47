import type { Framing } from '@/api/client'
import { Button } from './button'

type Props = { size: Framing['size']; onChoose: (size: Framing['size']) => void }

/** All pixels that came in, or as many as the place needs: one click either way. */
export function AsItCame({ size, onChoose }: Props) {
  const isAsItCame = size.by === 'percent' && size.percent === 100
  return (
    <p className="flex items-center justify-between gap-2 text-small text-soft">
      {isAsItCame ? 'As large as it came' : ''}
      <Button
        look="quiet"
        className="ml-auto py-0 text-small"
        onClick={() =>
          onChoose(isAsItCame ? { ...size, by: 'place' } : { ...size, by: 'percent', percent: 100 })
        }
      >
        {isAsItCame ? 'As large as its place' : 'As large as it came'}
      </Button>
    </p>
  )
}
