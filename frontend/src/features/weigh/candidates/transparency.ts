import type { Encode, Weighing } from '@/api/client'

/** Whether an encode fills the transparency that its photo has. */
export function losesTransparency(encode: Encode, weighing: Weighing): boolean {
  return encode.settings.format === 'jpeg' && Boolean(weighing.framed?.is_transparent)
}
