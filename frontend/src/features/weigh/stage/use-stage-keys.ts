import { useState } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'

import { UNLESS_TYPING } from '@/ui/keys'

import type { Look } from './use-look'
import type { Zoom } from './view'

/** The stage's keys; returns whether the one that shows the original is held. */
export function useStageKeys(onChange: (change: Partial<Look>) => void): boolean {
  const [isOriginalHeld, setIsOriginalHeld] = useState(false)
  useHotkeys('s', () => onChange({ mode: 'side' }), UNLESS_TYPING)
  useHotkeys('w', () => onChange({ mode: 'wipe' }), UNLESS_TYPING)
  useHotkeys('b', () => onChange({ mode: 'blink' }), UNLESS_TYPING)
  useHotkeys('d', () => onChange({ mode: 'difference' }), UNLESS_TYPING)
  useHotkeys('f', () => onChange({ zoom: 'fit' }), UNLESS_TYPING)
  useHotkeys(['1', '2', '4'], ({ key }) => onChange({ zoom: key as Zoom }), UNLESS_TYPING)
  useHotkeys('o', ({ type }) => setIsOriginalHeld(type === 'keydown'), {
    ...UNLESS_TYPING,
    keydown: true,
    keyup: true,
  })
  return isOriginalHeld
}
