import type { KeyboardEvent as ReactKeyboardEvent } from 'react'

import { store, stored } from './stored'

/** Keys work on buttons, sliders and radio buttons too, but never in a field of text, and never where
 * something else has used them: Escape closes a menu and nothing behind it. */
export const UNLESS_TYPING = {
  enableOnFormTags: true,
  // Else Ctrl+Z would undo typing too, in a field that was left.
  preventDefault: true,
  ignoreEventWhen: (event: KeyboardEvent) => isIgnored(event) || isTurnedOff(event),
}

const STORED = 'single-keys'
let singleKeys = stored(STORED) !== 'off'

/** Whether keys without Ctrl do anything: who speaks to a computer may not want that. */
export const areSingleKeysOn = () => singleKeys

/** Turns them on or off, in this browser from now on. */
export function setSingleKeys(areOn: boolean) {
  singleKeys = areOn
  store(STORED, areOn ? 'on' : 'off')
}

function isTurnedOff({ key, ctrlKey, metaKey }: KeyboardEvent): boolean {
  return !singleKeys && key.length === 1 && !ctrlKey && !metaKey
}

function isIgnored({ target, defaultPrevented }: KeyboardEvent): boolean {
  return (
    defaultPrevented ||
    target instanceof HTMLSelectElement ||
    target instanceof HTMLTextAreaElement ||
    (target instanceof HTMLInputElement && target.type !== 'radio' && target.type !== 'checkbox')
  )
}

const DIRECTIONS: Record<string, readonly [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
}

/** Where an arrow key goes: a step to the right and down; nowhere for other keys. */
export const directionOf = (key: string) => DIRECTIONS[key]

/** Handles the arrow keys: a step to the right and down, as 1, 0 or -1 each. */
export function onArrows(move: (right: number, down: number, event: ReactKeyboardEvent) => void) {
  return (event: ReactKeyboardEvent) => {
    const direction = DIRECTIONS[event.key]
    if (!direction || event.target !== event.currentTarget) return
    event.preventDefault()
    move(...direction, event)
  }
}
