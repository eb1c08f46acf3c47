import type { Aim } from '@/api/client'
import { Button } from '@/ui/button'
import { heldWords } from '@/words'

/** The knobs that every encode of the photo has, whatever is searched for, and letting them go. */
export function HeldKnobs({ aim, onRelease }: { aim: Aim; onRelease: () => void }) {
  const words = heldWords(aim)
  if (!words) return null
  return (
    <p className="flex items-center justify-between gap-2 text-small">
      <span>
        <span className="text-soft">Held:</span> {words}
      </span>
      <Button look="quiet" className="py-0 text-small" onClick={onRelease}>
        Release
      </Button>
    </p>
  )
}
