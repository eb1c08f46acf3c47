import { useCallback, useState } from 'react'

export type Size = { width: number; height: number }

/** A callback ref and the element's content box in CSS pixels, kept current. */
export function useSize(): [(element: Element | null) => (() => void) | undefined, Size] {
  const [size, setSize] = useState<Size>({ width: 0, height: 0 })
  const ref = useCallback((element: Element | null) => {
    if (!element) return undefined
    const observer = new ResizeObserver(([entry]) => {
      if (entry) setSize({ width: entry.contentRect.width, height: entry.contentRect.height })
    })
    observer.observe(element)
    return () => observer.disconnect()
  }, [])
  return [ref, size]
}
