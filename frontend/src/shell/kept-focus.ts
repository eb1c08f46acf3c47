import { useEffect } from 'react'

const FOCUSABLE =
  'a[href], button:not(:disabled), input:not(:disabled), select:not(:disabled), textarea:not(:disabled), [tabindex]:not([tabindex="-1"])'
/** How many elements that had the focus are remembered. */
const REMEMBERED = 12

/** Fields where letters are written, and so keys do nothing else. */
const WRITTEN = 'textarea, select, input:not([type="radio"]):not([type="checkbox"])'

/**
 * Keeps the focus where the hand is. What had it may go, by being taken, removed or closed, be made
 * anew, or be disabled for a while; the browser then gives the focus to nothing. It goes to what
 * opened what was closed, or else to what stands in the place of what went; and back to what it was
 * once that is there again.
 */
export function useKeptFocus() {
  useEffect(() => {
    let last: Place | null = null
    let before: HTMLElement[] = []
    let gone: { place: Place; standIn: Element | null } | null = null
    const remember = ({ target }: FocusEvent) => {
      if (!(target instanceof HTMLElement) || target === document.body) return
      before = [target, ...before.filter((each) => each !== target)].slice(0, REMEMBERED)
      last = placeOf(target)
    }
    const forget = () => {
      last = gone = null // the pointer chose something else, or nothing
    }
    const leave = ({ relatedTarget }: FocusEvent) => {
      if (relatedTarget) last = null // on its way there, the focus is nowhere for a moment
    }
    const look = () => {
      const active = document.activeElement
      if (gone && active === gone.standIn) {
        const again = sameAs(gone.place)
        gone.standIn = null
        if (again) again.focus()
        else gone.standIn = active
        return
      }
      if (!last || active !== document.body || !document.hasFocus()) return
      const { element } = last
      if (element.isConnected && !element.matches(':disabled')) element.focus()
      if (element.isConnected) return
      const place = last
      const standIn = sameAs(place) ?? openerIn(before) ?? standsFor(place)
      standIn?.focus()
      gone = { place, standIn: standIn ?? null }
    }
    const watcher = new MutationObserver(look)
    watcher.observe(document.body, {
      subtree: true,
      childList: true,
      attributes: true,
      attributeFilter: ['disabled'],
    })
    document.addEventListener('focusin', remember)
    document.addEventListener('focusout', leave, true) // before anything closes by it
    document.addEventListener('pointerdown', forget)
    return () => {
      watcher.disconnect()
      document.removeEventListener('focusin', remember)
      document.removeEventListener('focusout', leave, true)
      document.removeEventListener('pointerdown', forget)
    }
  }, [])
}

/**
 * An element, what it is called, what it stands in, the nearest first, and in their order all that
 * could have the focus when it did.
 */
type Place = { element: HTMLElement; name: string; around: HTMLElement[]; order: HTMLElement[] }

const all = () =>
  [...document.body.querySelectorAll<HTMLElement>(FOCUSABLE)].filter((each) =>
    each.checkVisibility(),
  )

function placeOf(element: HTMLElement): Place {
  const around: HTMLElement[] = []
  for (let at = element.parentElement; at; at = at.parentElement) around.push(at)
  return { element, name: nameOf(element), around, order: all() }
}

const nameOf = (element: HTMLElement) =>
  [
    element.tagName,
    element.getAttribute('role'),
    element.getAttribute('aria-label') ?? element.textContent,
  ].join(' ')

/** What is called as something was that went, and so is it, made anew. */
function sameAs({ name }: Place): HTMLElement | undefined {
  const same = all().filter((each) => nameOf(each) === name)
  return same.length === 1 ? same[0] : undefined
}

/** The last of these that opens something, which is closed now. */
function openerIn(before: HTMLElement[]): HTMLElement | undefined {
  return before.find((each) => each.isConnected && each.getAttribute('aria-expanded') === 'false')
}

/** What followed something, or came before it, in what is left of its nearest surroundings. */
function standsFor({ element, around, order }: Place): HTMLElement | undefined {
  const isWritten = element.matches(WRITTEN)
  const at = order.indexOf(element)
  const others = [...order.slice(at + 1), ...order.slice(0, Math.max(at, 0)).reverse()].filter(
    (each) =>
      each.isConnected && !each.matches(':disabled') && (isWritten || !each.matches(WRITTEN)),
  )
  for (const each of around) {
    const nearest = each.isConnected && others.find((other) => each.contains(other))
    if (nearest) return nearest
  }
  return undefined
}
