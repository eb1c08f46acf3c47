import { Slider } from 'radix-ui'

type Props = {
  label: string
  value: number
  min: number
  max: number
  step: number
  valueText: string
  className?: string
  onChange: (value: number) => void
  onCommit: (value: number) => void
}

/** A number set by dragging or with the arrow keys: `onChange` on the way, `onCommit` at rest. */
export function Dial({ label, value, min, max, step, valueText, className, ...on }: Props) {
  return (
    <Slider.Root
      value={[value]}
      min={min}
      max={max}
      step={step}
      onValueChange={([to]) => to !== undefined && on.onChange(to)}
      onValueCommit={([to]) => to !== undefined && on.onCommit(to)}
      className={`relative flex h-5 touch-none items-center select-none ${className ?? 'w-32'}`}
    >
      <Slider.Track className="relative h-[3px] grow rounded-sm bg-line">
        <Slider.Range className="absolute h-full rounded-sm bg-navy" />
      </Slider.Track>
      <Slider.Thumb
        aria-label={label}
        aria-valuetext={valueText}
        className="flex size-6 items-center justify-center rounded-sm"
      >
        <span className="h-4 w-2 rounded-sm border-2 border-navy bg-field" />
      </Slider.Thumb>
    </Slider.Root>
  )
}
