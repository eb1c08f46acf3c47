/**
 * An act of which one is under way at a time. Whoever asks while it is, or before it has rested, is
 * promised one that begins afterwards, together with all others who ask; for one `inAHurry` it does
 * not rest. So news that comes faster than answers leads to few of them, and the last is true.
 */
export class Paced {
  private readonly act: () => Promise<unknown>
  private readonly rest_ms: number
  private ended: Promise<void> | null = null
  private next: Promise<unknown> | null = null
  private isHurried = false
  private wake = () => {}

  constructor(rest_ms: number, act: () => Promise<unknown>) {
    this.rest_ms = rest_ms
    this.act = act
  }

  ask(inAHurry = false): Promise<unknown> {
    if (inAHurry) {
      this.isHurried = true
      this.wake()
    }
    // One that is promised begins in a moment, though the one before has ended.
    this.next ??= this.ended?.then(() => this.begin()) ?? null
    return this.next ?? this.begin()
  }

  private begin(): Promise<unknown> {
    this.next = null
    this.isHurried = false
    const act = this.act()
    this.ended = act
      .catch(() => {})
      .then(() => this.rested())
      .then(() => {
        this.ended = null
      })
    return act
  }

  private rested(): Promise<void> {
    if (this.isHurried) return Promise.resolve()
    return new Promise((resolve) => {
      const timer = setTimeout(resolve, this.rest_ms)
      this.wake = () => {
        clearTimeout(timer)
        resolve()
      }
    })
  }
}
