/** Boxes in the turned picture: pure arithmetic on crops and their proportions. */
import type { Box } from '@/api/client'

export type PictureSize = { width_px: number; height_px: number }
/** A box in percent of the picture. */
export type Percent = { x: number; y: number; width: number; height: number }

export const RATIOS = [
  { value: 'free', text: 'Free' },
  { value: 'original', text: 'Original' },
  { value: '1:1', text: '1:1' },
  { value: '5:4', text: '5:4' },
  { value: '4:3', text: '4:3' },
  { value: '3:2', text: '3:2' },
  { value: '16:9', text: '16:9' },
  { value: '21:9', text: '21:9' },
  { value: '4:5', text: '4:5' },
  { value: '3:4', text: '3:4' },
  { value: '2:3', text: '2:3' },
  { value: '9:16', text: '9:16' },
  { value: 'exact', text: 'Exact pixels' },
] as const
export type Ratio = (typeof RATIOS)[number]['value']

/** Width over height; null where it is free, or where the size is fixed. */
export function aspectOf(ratio: Ratio, picture: PictureSize): number | null {
  if (ratio === 'free' || ratio === 'exact') return null
  if (ratio === 'original') return picture.width_px / picture.height_px
  const [across = 1, down = 1] = ratio.split(':').map(Number)
  return across / down
}

export function wholeOf({ width_px, height_px }: PictureSize): Box {
  return { left_px: 0, top_px: 0, width_px, height_px }
}

/** The largest box with these proportions inside another, about its middle. */
export function shapedBox(within: Box, aspect: number): Box {
  const width_px = Math.max(1, Math.min(within.width_px, Math.round(within.height_px * aspect)))
  const height_px = Math.max(1, Math.min(within.height_px, Math.round(within.width_px / aspect)))
  return {
    left_px: within.left_px + Math.floor((within.width_px - width_px) / 2),
    top_px: within.top_px + Math.floor((within.height_px - height_px) / 2),
    width_px,
    height_px,
  }
}

/** A box with one of its numbers changed, kept inside the picture and in its proportions. */
export function changedBox(
  box: Box,
  change: Partial<Box>,
  picture: PictureSize,
  aspect: number | null,
): Box {
  const asked = { ...box, ...change }
  if (aspect !== null && change.width_px) asked.height_px = Math.round(asked.width_px / aspect)
  if (aspect !== null && change.height_px) asked.width_px = Math.round(asked.height_px * aspect)
  const width_px = bounded(asked.width_px, 1, picture.width_px)
  const height_px = bounded(asked.height_px, 1, picture.height_px)
  return {
    left_px: bounded(asked.left_px, 0, picture.width_px - width_px),
    top_px: bounded(asked.top_px, 0, picture.height_px - height_px),
    width_px,
    height_px,
  }
}

export function isSameBox(one: Box | null, other: Box | null): boolean {
  if (one === null || other === null) return one === other
  return (
    one.left_px === other.left_px &&
    one.top_px === other.top_px &&
    one.width_px === other.width_px &&
    one.height_px === other.height_px
  )
}

export function toPercent(box: Box, picture: PictureSize): Percent {
  return {
    x: (box.left_px / picture.width_px) * 100,
    y: (box.top_px / picture.height_px) * 100,
    width: (box.width_px / picture.width_px) * 100,
    height: (box.height_px / picture.height_px) * 100,
  }
}

/** The nearest box of whole pixels, or null for one that is empty. */
export function fromPercent(percent: Percent, picture: PictureSize): Box | null {
  if (percent.width <= 0 || percent.height <= 0) return null
  const box = {
    left_px: Math.round((percent.x / 100) * picture.width_px),
    top_px: Math.round((percent.y / 100) * picture.height_px),
    width_px: Math.round((percent.width / 100) * picture.width_px),
    height_px: Math.round((percent.height / 100) * picture.height_px),
  }
  return changedBox(box, {}, picture, null)
}

export function bounded(value: number, least: number, most: number): number {
  return Math.min(Math.max(value, least), most)
}

/** CSS matrices of the eight EXIF orientations. */
export const ORIENTATIONS: Record<number, string> = {
  1: 'matrix(1, 0, 0, 1, 0, 0)',
  2: 'matrix(-1, 0, 0, 1, 0, 0)',
  3: 'matrix(-1, 0, 0, -1, 0, 0)',
  4: 'matrix(1, 0, 0, -1, 0, 0)',
  5: 'matrix(0, 1, 1, 0, 0, 0)',
  6: 'matrix(0, 1, -1, 0, 0, 0)',
  7: 'matrix(0, -1, -1, 0, 0, 0)',
  8: 'matrix(0, -1, 1, 0, 0, 0)',
}
