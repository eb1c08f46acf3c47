/** Marked areas: between the place, in which they are drawn, and the turned picture, which keeps them. */
import type { Box, Mark, Weighing } from '@/api/client'

/** A box of the place as one of the turned picture. */
export function toPicture(box: Box, { plan }: Weighing): Box {
  const across = plan.box.width_px / plan.width_px
  const down = plan.box.height_px / plan.height_px
  const left = Math.floor(box.left_px * across)
  const top = Math.floor(box.top_px * down)
  return {
    left_px: plan.box.left_px + left,
    top_px: plan.box.top_px + top,
    width_px: Math.max(1, Math.min(Math.ceil(box.width_px * across), plan.box.width_px - left)),
    height_px: Math.max(1, Math.min(Math.ceil(box.height_px * down), plan.box.height_px - top)),
  }
}

/** Where a mark is in the place. */
export function toPlace({ box }: Mark, { plan }: Weighing): Box {
  const across = plan.width_px / plan.box.width_px
  const down = plan.height_px / plan.box.height_px
  return {
    left_px: Math.round((box.left_px - plan.box.left_px) * across),
    top_px: Math.round((box.top_px - plan.box.top_px) * down),
    width_px: Math.round(box.width_px * across),
    height_px: Math.round(box.height_px * down),
  }
}
