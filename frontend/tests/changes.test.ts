import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'

import { Paced } from '@/api/changes/paced'

/** An act that ends when it is told to. */
function act() {
  const ends: (() => void)[] = []
  const begun = vi.fn<() => Promise<void>>(() => new Promise<void>((resolve) => ends.push(resolve)))
  const end = async () => {
    ends.shift()?.()
    await vi.advanceTimersByTimeAsync(0)
  }
  return { begun, end }
}

describe('what is paced', () => {
  beforeEach(() => void vi.useFakeTimers())
  afterEach(() => void vi.useRealTimers())

  it('is done at once, and once more for all who ask meanwhile', async () => {
    const { begun, end } = act()
    const paced = new Paced(250, begun)
    void paced.ask()
    const others = [paced.ask(), paced.ask(), paced.ask()]
    expect(begun).toHaveBeenCalledTimes(1)
    await end()
    await vi.advanceTimersByTimeAsync(249)
    expect(begun).toHaveBeenCalledTimes(1)
    await vi.advanceTimersByTimeAsync(1)
    expect(begun).toHaveBeenCalledTimes(2)
    await end()
    await Promise.all(others)
    await vi.advanceTimersByTimeAsync(1_000)
    expect(begun).toHaveBeenCalledTimes(2)
  })

  it.each(['under way', 'resting'])('does not rest for one in a hurry while %s', async (when) => {
    const { begun, end } = act()
    const paced = new Paced(250, begun)
    void paced.ask()
    if (when === 'resting') await end()
    void paced.ask(true)
    if (when === 'under way') await end()
    await vi.advanceTimersByTimeAsync(0)
    expect(begun).toHaveBeenCalledTimes(2)
  })

  it('has one under way, though somebody asks in the moment between two', async () => {
    let underWay = 0
    let most = 0
    const paced = new Paced(0, async () => {
      most = Math.max(most, (underWay += 1))
      await Promise.resolve()
      underWay -= 1
    })
    const asking = Array.from({ length: 40 }, async (_, index) => {
      for (let turn = 0; turn < index; turn += 1) await Promise.resolve()
      await paced.ask(true)
    })
    await vi.advanceTimersByTimeAsync(50)
    await Promise.all(asking)
    expect(most).toBe(1)
  })

  it('goes on after a failure, which only those hear who asked for it', async () => {
    const begun = vi
      .fn<() => Promise<string>>()
      .mockRejectedValueOnce(new Error('away'))
      .mockResolvedValue('here')
    const paced = new Paced(250, begun)
    await expect(paced.ask()).rejects.toThrow('away')
    const second = paced.ask()
    await vi.advanceTimersByTimeAsync(250)
    await expect(second).resolves.toBe('here')
  })
})
