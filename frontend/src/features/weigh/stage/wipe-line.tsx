import { Slider } from 'radix-ui'

const THUMB_PX = 24

type Props = { value: number; height: number; onChange: (value: number) => void }

/** The line between the two pictures of a wipe, to be dragged or moved by the arrow keys. */
export function WipeLine({ value, height, onChange }: Props) {
  return (
    <Slider.Root
      value={[value]}
      onValueChange={([to]) => to !== undefined && onChange(to)}
      onPointerDown={(event) => event.stopPropagation()}
      className="pointer-events-none absolute inset-0 flex touch-none select-none"
    >
      <Slider.Track className="h-full w-full" />
      <Slider.Thumb
        aria-label="Wipe: share of the original, in percent"
        style={{ height, width: THUMB_PX }}
        className="pointer-events-auto flex cursor-ew-resize items-center justify-center"
      >
        <span className="h-full w-0.5 bg-white" />
        <svg
          viewBox="0 0 24 24"
          className="absolute size-6 rounded-sm border border-ink bg-white stroke-ink"
          aria-hidden
        >
          <path d="M9 8l-4 4l4 4M15 8l4 4l-4 4" fill="none" strokeWidth={1.5} />
        </svg>
      </Slider.Thumb>
    </Slider.Root>
  )
}

/** Where the line stands, as a CSS length: a slider's thumb stays inside its track at both ends. */
export function wipeLineAt(percent: number): string {
  return `calc(${percent}% + ${THUMB_PX * (0.5 - percent / 100)}px)`
}
