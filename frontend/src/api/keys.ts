/** What answers of the server are kept under. */
export const keys = {
  pages: ['pages'] as const,
  places: ['pages', 'places'] as const,
  treatments: ['pages', 'treatments'] as const,
  batches: ['pages', 'batches'] as const,
  deliveries: ['pages', 'deliveries'] as const,
  /** Visits are begun, not read: there is nothing to fetch again. */
  visit: 'visit',
  library: ['library'] as const,
  room: ['room'] as const,
  photo: (photoId: number) => ['photo', photoId] as const,
  /** What was done here alone: there is nothing to fetch. */
  turns: (photoId: number) => ['turns', photoId] as const,
}
