type Props = { share: number; isOver: boolean; className?: string }

/** How much of a limit is used; the numbers stand beside it. */
export function Gauge({ share, isOver, className }: Props) {
  return (
    <div className={`gauge h-[5px] bg-hair ${className ?? ''}`} aria-hidden>
      <div
        className={`h-full ${isOver ? 'bg-over' : 'bg-navy'}`}
        style={{ width: `${Math.min(1, share) * 100}%` }}
      />
    </div>
  )
}
