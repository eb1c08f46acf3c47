/** Encodes that differ in quality only, and what is to be expected between them: pure arithmetic. */
import type { Encode, WantedEncode, Settings } from '@/api/client'

/** How fast bytes rise a step, in the natural logarithm, where only one point is known. */
const FIRST_SLOPE = 0.035

/** What was encoded, and so can be encoded otherwise. */
export type Tunable = Encode & { settings: Settings }
export type Point = { step: number; size_bytes: number; likeness: number }
export type Expected = Point & { isMeasured: boolean }

export function isTunable(encode: Encode): encode is Tunable {
  return !encode.is_original
}

/** The number that the marker moves along: quality, or colours; null where there is none. */
export function stepOf(settings: Encode['settings']): number | null {
  if ('pass_through' in settings) return null
  return settings.format === 'png' ? settings.colours : settings.quality
}

export function atStep(settings: Settings, step: number): Settings {
  return settings.format === 'png' ? { ...settings, colours: step } : { ...settings, quality: step }
}

export function wantedAt(encode: Tunable, step: number): WantedEncode {
  return { settings: atStep(encode.settings, step), width_px: encode.width_px }
}

/** All that was measured with the same settings but for quality, by rising quality. */
export function seriesOf(encodes: readonly Encode[], of: Encode): Point[] {
  const key = isTunable(of) && seriesKey(of)
  const points = encodes
    .filter(isTunable)
    .filter((encode) => seriesKey(encode) === key)
    .map((encode) => ({ ...encode, step: stepOf(encode.settings) ?? 0 }))
  return points.sort((a, b) => a.step - b.step)
}

function seriesKey({ settings, width_px }: Tunable): string {
  return trialKey(atStep(settings, 0), width_px)
}

function trialKey(settings: Encode['settings'], width_px: number | null | undefined): string {
  return JSON.stringify([Object.entries(settings).sort(), width_px])
}

/** Whether an encode is what is asked for. */
export function isAsAsked(encode: Encode, { settings, width_px }: WantedEncode): boolean {
  return trialKey(encode.settings, encode.width_px) === trialKey(settings, width_px)
}

/** An encode as it is being turned: with the settings and pixels that are wanted, if any are. */
export function turned(encode: Tunable, wanted: WantedEncode | null): Tunable {
  if (!wanted) return encode
  return { ...encode, settings: wanted.settings, width_px: wanted.width_px ?? encode.width_px }
}

/** Bytes and likeness at a step: measured, or between its neighbours by the logarithm of bytes. */
export function expectedAt(points: readonly Point[], step: number): Expected {
  const known = points.find((point) => point.step === step)
  if (known) return { ...known, isMeasured: true }
  const above = points.find((point) => point.step > step)
  const below = points.findLast((point) => point.step < step)
  const near = below ?? above
  if (!near) return { step, size_bytes: 1, likeness: 0, isMeasured: false }
  const [from, to] = below && above ? [below, above] : endsOf(points, below !== undefined)
  const share = from === to ? 0 : (step - from.step) / (to.step - from.step)
  const slope = from === to ? (step - near.step) * FIRST_SLOPE : 0
  const logBytes = mix(Math.log(from.size_bytes), Math.log(to.size_bytes), share) + slope
  const likeness = below && above ? mix(from.likeness, to.likeness, share) : near.likeness
  return { step, size_bytes: Math.exp(logBytes), likeness, isMeasured: false }
}

/** The two outermost points at one end, from which to go on. */
function endsOf(points: readonly Point[], isPastTheLast: boolean): [Point, Point] {
  const pair = isPastTheLast ? points.slice(-2) : points.slice(0, 2)
  const [from, to] = pair as [Point, Point | undefined]
  return [from, to ?? from]
}

function mix(from: number, to: number, share: number): number {
  return from + (to - from) * share
}

/** The step whose bytes come nearest to those wanted. */
export function stepForBytes(points: readonly Point[], steps: readonly number[], bytes: number) {
  const target = Math.log(bytes)
  const distance = (step: number) =>
    Math.abs(Math.log(expectedAt(points, step).size_bytes) - target)
  return steps.reduce(
    (best, step) => (distance(step) < distance(best) ? step : best),
    steps[0] ?? 1,
  )
}

/** One step up or down, or as many as change the bytes by a share. */
export function steppedFrom(
  points: readonly Point[],
  steps: readonly number[],
  step: number,
  by: 1 | -1,
  share = 0,
): number {
  const further = steps.filter((other) => (by > 0 ? other > step : other < step))
  if (by < 0) further.reverse()
  if (!share) return further[0] ?? step
  const from = expectedAt(points, step).size_bytes
  const isEnough = (other: number) =>
    Math.abs(Math.log(expectedAt(points, other).size_bytes / from)) >= Math.log(1 + share)
  return further.find(isEnough) ?? further.at(-1) ?? step
}
