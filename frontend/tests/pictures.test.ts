import { describe, expect, it, test } from 'vitest'

import type { Mark, Weighing } from '@/api/client'
import {
  aspectOf,
  changedBox,
  fromPercent,
  shapedBox,
  toPercent,
  wholeOf,
} from '@/features/frame/picture/crop-model'
import { secondsOf } from '@/features/weigh/arrival/lines'
import { bestWithin, lightestFor } from '@/features/weigh/chart/forecast/read-off'
import { toPicture, toPlace } from '@/features/weigh/spots/marks'
import {
  boxInSight,
  clamped,
  corner,
  dragged,
  MIDDLE,
  nextZoom,
  scaleOf,
  zoomedAt,
  zoomFor,
} from '@/features/weigh/stage/view'

const PICTURE = { width: 1000, height: 500 }
const PANE = { width: 400, height: 300 }

describe('the stage', () => {
  it.each([
    ['1', 1, 1],
    ['1', 2, 0.5],
    ['2', 2, 1],
    ['4', 1.5, 4 / 1.5],
    ['fit', 1, 0.4],
    ['fit', 4, 0.25],
  ] as const)('at %s on a screen of %d shows a pixel on so many', (zoom, ratio, scale) => {
    expect(scaleOf(zoom, PICTURE, PANE, ratio)).toBeCloseTo(scale, 10)
  })

  it('never enlarges a picture to fit', () => {
    expect(scaleOf('fit', { width: 40, height: 30 }, PANE, 1)).toBe(1)
  })

  it('puts the corner on whole pixels of the screen', () => {
    for (const ratio of [1, 1.5, 2, 3]) {
      const { x, y } = corner({ x: 0.501, y: 0.3331 }, PICTURE, PANE, 1 / ratio, ratio)
      for (const at of [x, y]) expect(at * ratio).toBeCloseTo(Math.round(at * ratio), 9)
    }
    expect(corner(MIDDLE, PICTURE, PANE, 1, 1)).toEqual({ x: -300, y: -100 })
  })

  it('is filled by the picture where that can be', () => {
    expect(clamped({ x: 0, y: 0 }, PICTURE, PANE, 1)).toEqual({ x: 0.2, y: 0.3 })
    expect(clamped({ x: 1, y: 1 }, PICTURE, PANE, 1)).toEqual({ x: 0.8, y: 0.7 })
    expect(clamped({ x: 0.1, y: 0.9 }, PICTURE, PANE, 0.2)).toEqual({ x: 0.5, y: 0.5 })
  })

  it('goes with the hand', () => {
    expect(dragged(MIDDLE, 100, -50, PICTURE, 2)).toEqual({ x: 0.45, y: 0.55 })
  })

  it('keeps what lies under the pointer where it is', () => {
    const away = { x: 90, y: -40 }
    const under = (centre: typeof MIDDLE, scale: number) => ({
      x: centre.x * PICTURE.width + away.x / scale,
      y: centre.y * PICTURE.height + away.y / scale,
    })
    const zoomed = zoomedAt(MIDDLE, away, PICTURE, 1, 4)
    expect(under(zoomed, 4).x).toBeCloseTo(under(MIDDLE, 1).x)
    expect(under(zoomed, 4).y).toBeCloseTo(under(MIDDLE, 1).y)
  })

  it('knows which part is in sight', () => {
    const seen = { left_px: 300, top_px: 100, width_px: 400, height_px: 300 }
    expect(boxInSight(MIDDLE, PICTURE, PANE, 1)).toEqual(seen)
    const corner = { left_px: 0, top_px: 0, width_px: 200, height_px: 150 }
    expect(boxInSight({ x: 0, y: 0 }, PICTURE, PANE, 2)).toEqual(corner)
    const all = { left_px: 0, top_px: 0, width_px: 1000, height_px: 500 }
    expect(boxInSight({ x: 0, y: 1 }, PICTURE, PANE, 0.2)).toEqual(all)
  })

  it('zooms to a spot as far as it can be judged', () => {
    expect(zoomFor({ width: 40, height: 40 }, PANE, 1)).toBe('4')
    expect(zoomFor({ width: 100, height: 100 }, PANE, 1)).toBe('2')
    expect(zoomFor({ width: 100, height: 100 }, PANE, 2)).toBe('2')
    expect(zoomFor({ width: 200, height: 150 }, PANE, 1)).toBe('1')
  })

  it('has a first and a last zoom', () => {
    expect([nextZoom('fit', -1), nextZoom('1', 1), nextZoom('4', 1)]).toEqual(['fit', '2', '4'])
  })
})

describe('crops', () => {
  const picture = { width_px: 600, height_px: 400 }

  it.each([
    ['free', null],
    ['exact', null],
    ['original', 1.5],
    ['16:9', 16 / 9],
    ['2:3', 2 / 3],
  ] as const)('of %s have these proportions', (ratio, aspect) => {
    expect(aspectOf(ratio, picture)).toBe(aspect)
  })

  it('are as large as they can be about the middle', () => {
    const square = { left_px: 100, top_px: 0, width_px: 400, height_px: 400 }
    expect(shapedBox(wholeOf(picture), 1)).toEqual(square)
    const within = { left_px: 10, top_px: 20, width_px: 100, height_px: 90 }
    const wide = { left_px: 10, top_px: 40, width_px: 100, height_px: 50 }
    expect(shapedBox(within, 2)).toEqual(wide)
  })

  it('stay in the picture and in their proportions', () => {
    const box = { left_px: 100, top_px: 50, width_px: 200, height_px: 100 }
    expect(changedBox(box, { width_px: 300 }, picture, 2)).toEqual({
      ...box,
      width_px: 300,
      height_px: 150,
    })
    expect(changedBox(box, { height_px: 50 }, picture, 2)).toEqual({
      ...box,
      width_px: 100,
      height_px: 50,
    })
    expect(changedBox(box, { left_px: 900 }, picture, null)).toEqual({ ...box, left_px: 400 })
    expect(changedBox(box, { top_px: -4 }, picture, null)).toEqual({ ...box, top_px: 0 })
  })

  it('in percent come back as they were', () => {
    const box = { left_px: 37, top_px: 11, width_px: 211, height_px: 97 }
    expect(fromPercent(toPercent(box, picture), picture)).toEqual(box)
    expect(fromPercent({ x: 0, y: 0, width: 0, height: 10 }, picture)).toBeNull()
  })
})

test('marks are kept in the picture and drawn in the place', () => {
  const plan = {
    box: { left_px: 40, top_px: 20, width_px: 800, height_px: 600 },
    width_px: 400,
    height_px: 200,
  }
  const weighing = { plan } as unknown as Weighing
  const box = { left_px: 10, top_px: 30, width_px: 50, height_px: 20 }
  const kept = toPicture(box, weighing)
  expect(kept).toEqual({ left_px: 60, top_px: 110, width_px: 100, height_px: 60 })
  expect(toPlace({ box: kept } as Mark, weighing)).toEqual(box)
  const edge = toPicture({ left_px: 399, top_px: 199, width_px: 9, height_px: 9 }, weighing)
  expect([edge.left_px + edge.width_px, edge.top_px + edge.height_px]).toEqual([840, 620])
})

test('a file arrives after a round trip, at full speed', () => {
  expect(secondsOf(200_000, { kbit_s: 1_600, round_trip_ms: 150 })).toBeCloseTo(1.15)
})

describe('a forecast', () => {
  const curve = (format: 'jpeg' | 'avif', name: string, likenesses: number[]) => ({
    format,
    name,
    points: likenesses.map((likeness, index) => ({
      size_bytes: 10_000 * 4 ** index,
      likeness,
      least: likeness - 5,
      most: likeness + 5,
    })),
  })
  const both = [curve('jpeg', 'JPEG', [40, 60, 95]), curve('avif', 'AVIF', [50, 80, 90])]

  it.each([
    [10_000, 50, 'AVIF'],
    [20_000, 65, 'AVIF'],
    [160_000, 95, 'JPEG'],
    [900_000, 95, 'JPEG'],
  ])('of %i bytes is the best that any format is expected to come to', (bytes, likeness, name) => {
    const best = bestWithin(both, bytes)
    expect(best?.likeness).toBeCloseTo(likeness)
    expect(best?.name).toBe(name)
  })

  it.each([
    [80, 40_000, 'AVIF'],
    [65, 20_000, 'AVIF'],
    [95, 160_000, 'JPEG'],
    [30, 10_000, 'JPEG'],
  ])('of likeness %i is the lightest that is expected to have it', (likeness, bytes, name) => {
    const lightest = lightestFor(both, likeness)
    expect(lightest?.size_bytes).toBeCloseTo(bytes)
    expect(lightest?.name).toBe(name)
  })

  it('is none where no format is expected to come to it', () => {
    expect(bestWithin(both, 9_000)).toBeNull()
    expect(lightestFor(both, 96)).toBeNull()
    expect(lightestFor([], 50)).toBeNull()
  })
})
