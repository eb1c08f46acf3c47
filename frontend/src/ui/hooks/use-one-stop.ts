import { useEffect, useRef } from 'react'

import { directionOf } from '../keys'

const ITEMS = 'a[href], button:not(:disabled), input[type="checkbox"]:not(:disabled)'

/**
 * Makes a list or a table one stop of the Tab key: the arrow keys go to what lies that way in it,
 * and Tab comes back to where it was left, or to what is current.
 */
export function useOneStop<E extends HTMLElement>() {
  const list = useRef<E>(null)
  useEffect(() => {
    const own = list.current
    if (!own) return undefined
    let stop: HTMLElement | null = null
    const items = () => [...own.querySelectorAll<HTMLElement>(ITEMS)]
    const order = () => {
      const all = items()
      if (!stop || !all.includes(stop)) {
        stop = all.find((each) => each.getAttribute('aria-current')) ?? all[0] ?? null
      }
      for (const each of all) {
        const to = each === stop ? 0 : -1
        if (each.tabIndex !== to) each.tabIndex = to
      }
    }
    const onFocus = ({ target }: FocusEvent) => {
      if (target instanceof HTMLElement && target.matches(ITEMS)) {
        stop = target
        order()
      }
    }
    const onKey = (event: KeyboardEvent) => {
      const direction = directionOf(event.key)
      const from = event.target
      if (!direction || event.defaultPrevented || !(from instanceof HTMLElement)) return
      if (!from.matches(ITEMS) || isLifted(from)) return
      const next = nearest(from, items(), direction)
      if (!next) return
      event.preventDefault()
      next.focus()
    }
    order()
    const watcher = new MutationObserver(order)
    watcher.observe(own, { childList: true, subtree: true })
    own.addEventListener('focusin', onFocus)
    own.addEventListener('keydown', onKey)
    return () => {
      watcher.disconnect()
      own.removeEventListener('focusin', onFocus)
      own.removeEventListener('keydown', onKey)
    }
  }, [])
  return list
}

/** Whether it is on its way in a list, and the arrows move it. */
function isLifted(element: HTMLElement): boolean {
  return element.hasAttribute('aria-roledescription') && element.ariaPressed === 'true'
}

/** What lies nearest in a direction, and hardly beside it. */
function nearest(
  from: HTMLElement,
  items: readonly HTMLElement[],
  [right, down]: readonly [number, number],
): HTMLElement | undefined {
  const at = middleOf(from)
  const reached = items.flatMap((item) => {
    const to = middleOf(item)
    const [across, along] = [to.x - at.x, to.y - at.y]
    const ahead = across * right + along * down
    const beside = Math.abs(across * down) + Math.abs(along * right)
    // What stands in the same line only a little higher or lower is not above or below.
    return ahead > 1 && beside <= (right ? at.half : Infinity) && ahead > (down ? at.half : 0)
      ? [{ item, far: ahead + 2 * beside }]
      : []
  })
  return reached.sort((a, b) => a.far - b.far)[0]?.item
}

/** The middle of an element, and half of its height. */
function middleOf(element: HTMLElement) {
  const { left, top, width, height } = element.getBoundingClientRect()
  return { x: left + width / 2, y: top + height / 2, half: Math.max(height / 2, 12) }
}
