import { useEffect } from 'react'

const FOCUSABLE =
  'a[href], button:not(:disabled), input:not(:disabled), select:not(:disabled), textarea:not(:disabled), [tabindex]:not([tabindex="-1"])'
/** How many elements that had the focus are remembered. */
const REMEMBERED = 12

/**
 * Keeps the focus where the hand is. What had it may go, by being taken, removed or closed, or be
 * disabled for a while; the browser then gives the focus to nothing. It goes to what opened what was
 * closed, or else to what stands in the place of what went.
 */
export function useKeptFocus() {
  useEffect(() => {
    let last: Place | null = null
    let before: HTMLElement[] = []
    const remember = ({ target }: FocusEvent) => {
      if (!(target instanceof HTMLElement) || target === document.body) return
      before = [target, ...before.filter((each) => each !== target)].slice(0, REMEMBERED)
      last = placeOf(target)
    }
    const forget = () => {
      last = null // the pointer chose something else, or nothing
    }
    const look = () => {
      if (!last || document.activeElement !== document.body) return
      const { element } = last
      if (element.isConnected && !element.matches(':disabled')) element.focus()
      else if (!element.isConnected) (openerIn(before) ?? standsFor(last))?.focus()
    }
    const watcher = new MutationObserver(look)
    watcher.observe(document.body, {
      subtree: true,
      childList: true,
      attributes: true,
      attributeFilter: ['disabled'],
    })
    document.addEventListener('focusin', remember)
    document.addEventListener('pointerdown', forget)
    return () => {
      watcher.disconnect()
      document.removeEventListener('focusin', remember)
      document.removeEventListener('pointerdown', forget)
    }
  }, [])
}

/** An element with what it stands in, the nearest first, and how many can have the focus before it. */
type Place = { element: HTMLElement; around: HTMLElement[]; index: number }

function placeOf(element: HTMLElement): Place {
  const around: HTMLElement[] = []
  for (let at = element.parentElement; at; at = at.parentElement) around.push(at)
  return { element, around, index: all(document.body).indexOf(element) }
}

const all = (within: HTMLElement) => [...within.querySelectorAll<HTMLElement>(FOCUSABLE)]

/** The last of these that opens something, which is closed now. */
function openerIn(before: HTMLElement[]): HTMLElement | undefined {
  return before.find((each) => each.isConnected && each.getAttribute('aria-expanded') === 'false')
}

/** What can have the focus and is nearest to where something was, in what is left of its surroundings. */
function standsFor({ around, index }: Place): HTMLElement | undefined {
  const inOrder = all(document.body)
  for (const each of around) {
    if (!each.isConnected) continue
    const inside = inOrder.filter((other) => each.contains(other))
    const following = inside.find((other) => inOrder.indexOf(other) >= index)
    const nearest = following ?? inside.at(-1)
    if (nearest) return nearest
  }
  return undefined
}
