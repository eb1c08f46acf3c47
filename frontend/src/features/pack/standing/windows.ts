/** The windows in which a page stands: how wide each is, on a screen of which density. */
export type StandingWindow = {
  name: string
  window_css_px: number
  density: number
  /** How wide it is drawn here. */
  drawn_px: number
}

/** The usual ones; desktop screens have the density that the page is made for. */
export const windowsFor = (density: number): StandingWindow[] => [
  { name: 'Phone', window_css_px: 390, density: 2, drawn_px: 150 },
  { name: 'Tablet', window_css_px: 820, density: 2, drawn_px: 220 },
  { name: 'Desktop', window_css_px: 1440, density, drawn_px: 350 },
]

/** What the site tells when all of its pictures stand. */
export type Told = {
  window_css_px: number
  density: number
  pictures: { shown_css_px: number; stood_ms: number | null }[]
}

/** A message of the site, which is not to be trusted: null where it is not of this form. */
export function toldOf(message: unknown): Told | null {
  const told = (message as { standing?: Partial<Told> } | null)?.standing
  if (!told || !isNumber(told.window_css_px) || !isNumber(told.density)) return null
  if (!Array.isArray(told.pictures)) return null
  const pictures = told.pictures.map((picture) => ({
    shown_css_px: isNumber(picture?.shown_css_px) ? picture.shown_css_px : 0,
    stood_ms: isNumber(picture?.stood_ms) ? picture.stood_ms : null,
  }))
  return { window_css_px: told.window_css_px, density: told.density, pictures }
}

const isNumber = (value: unknown): value is number =>
  typeof value === 'number' && Number.isFinite(value)
