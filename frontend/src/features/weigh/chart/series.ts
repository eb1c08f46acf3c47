/** Encodes that differ in quality only, and moving along them: pure arithmetic. */
import type { Encode, QualityStep, Settings, WantedEncode } from '@/api/client'

/** What was encoded, and so can be encoded otherwise. */
export type Tunable = Encode & { settings: Settings }

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

/** All that differs from an encode in quality only, as one of them. */
export function seriesOf(encode: Tunable): WantedEncode | null {
  return stepOf(encode.settings) === null ? null : wantedAt(encode, ANY_STEP)
}

const ANY_STEP = 50

/** Whether an encode is what is asked for. */
export function isAsAsked(encode: Encode, { settings, width_px }: WantedEncode): boolean {
  return trialKey(encode.settings, encode.width_px) === trialKey(settings, width_px)
}

function trialKey(settings: Encode['settings'], width_px: number | null | undefined): string {
  return JSON.stringify([Object.entries(settings).sort(), width_px])
}

/** An encode as it is being turned: with the settings and pixels that are wanted, if any are. */
export function turned(encode: Tunable, wanted: WantedEncode | null): Tunable {
  if (!wanted) return encode
  return { ...encode, settings: wanted.settings, width_px: wanted.width_px ?? encode.width_px }
}

/** The step whose bytes come nearest to those wanted. */
export function stepForBytes(steps: readonly QualityStep[], bytes: number): number | undefined {
  const distance = ({ size_bytes }: QualityStep) => Math.abs(Math.log(size_bytes / bytes))
  return steps.reduce<QualityStep | undefined>(
    (best, step) => (best && distance(best) <= distance(step) ? best : step),
    undefined,
  )?.step
}

/** One step up or down, or as many as change the bytes by a share. */
export function steppedFrom(
  steps: readonly QualityStep[],
  step: number,
  by: 1 | -1,
  share = 0,
): number {
  const further = steps.filter((other) => (by > 0 ? other.step > step : other.step < step))
  if (by < 0) further.reverse()
  const from = steps.find((other) => other.step === step)?.size_bytes
  const isEnough = ({ size_bytes }: QualityStep) =>
    !share || !from || Math.abs(Math.log(size_bytes / from)) >= Math.log(1 + share)
  return (further.find(isEnough) ?? further.at(-1))?.step ?? step
}
