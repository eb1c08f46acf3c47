/** Other programs may be served from the same address. */
const OURS = 'lean-parcel '

/** What this browser keeps under a key; null where there is nothing, or nothing can be kept. */
export function stored(key: string): string | null {
  try {
    return localStorage.getItem(OURS + key)
  } catch {
    return null
  }
}

/** Keeps a text in this browser; where that cannot be, it is lost when the page is left. */
export function store(key: string, text: string) {
  try {
    localStorage.setItem(OURS + key, text)
  } catch {
    // it holds until the page is left
  }
}
