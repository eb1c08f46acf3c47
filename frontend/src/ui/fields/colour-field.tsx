import { Hint } from '@/ui/hint'

type Props = { label: string; hint: string; value: string; onChoice: (value: string) => void }

/** A colour, sent when it is decided. */
export function ColourField({ label, hint, value, onChoice }: Props) {
  return (
    <Hint words={hint}>
      <label className="flex items-center justify-between gap-2">
        <span className="text-soft">{label}</span>
        <input
          type="color"
          className="h-7 w-12"
          key={value}
          defaultValue={value}
          ref={whenChosen(onChoice)}
        />
      </label>
    </Hint>
  )
}

/** React's `onChange` fires while a colour is still being looked for; the native event after. */
function whenChosen(onChoice: (value: string) => void) {
  return (input: HTMLInputElement | null) => {
    const send = () => input && onChoice(input.value)
    input?.addEventListener('change', send)
    return () => input?.removeEventListener('change', send)
  }
}
