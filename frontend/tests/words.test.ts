import { describe, expect, it, test } from 'vitest'

import {
  countWords,
  durationWords,
  exactWords,
  isSamePlace,
  likenessNumber,
  limitWords,
  parseNumber,
  parsePixels,
  placeNameOf,
  savingWords,
  secondsWords,
  shareWords,
  sizeWords,
} from '@/words'

describe('sizes', () => {
  it.each([
    [0, '0 B'],
    [999, '999 B'],
    [1000, '1.0 kB'],
    [198_412, '198.4 kB'],
    [999_949, '999.9 kB'],
    [999_950, '1.00 MB'],
    [4_860_000, '4.86 MB'],
  ])('are rounded once: %i', (bytes, words) => {
    expect(sizeWords(bytes)).toBe(words)
  })

  it('are told to the byte where somebody asks', () => {
    expect(exactWords(198_412)).toBe('198,412 bytes')
  })

  it.each([
    [200_000, '200 kB'],
    [1_500, '1.5 kB'],
    [100, '0.1 kB'],
    [1_024, '1024 B'],
    [204_800, '204.8 kB'],
    [204_801, '204801 B'],
  ])('of limits are never rounded: %i', (bytes, words) => {
    expect(limitWords(bytes)).toBe(words)
  })

  it.each([
    [198_412, 200_000, '198.4 of 200 kB'],
    [812, 200_000, '812 B of 200 kB'],
    [2_000_000, 200_000, '2.00 MB of 200 kB'],
    [1_000, 1_024, '1.0 kB of 1024 B'],
  ])('and limits stand side by side: %i of %i', (bytes, limit, words) => {
    expect(shareWords(bytes, limit)).toBe(words)
  })

  it.each([
    [4_100, 100_000, '24.4 times lighter'],
    [50_000, 100_000, '2.0 times lighter'],
    [100_000, 100_000, '1.0 times as heavy as the original'],
    [150_000, 100_000, '1.5 times as heavy as the original'],
  ])('are compared: %i with %i', (bytes, original, words) => {
    expect(savingWords(bytes, original)).toBe(words)
  })
})

describe('times', () => {
  it.each([
    [0.5444, '0.54 s'],
    [9.994, '9.99 s'],
    [12.24, '12.2 s'],
  ])('of arriving: %d', (seconds, words) => {
    expect(secondsWords(seconds)).toBe(words)
  })

  it.each([
    [0.2, '1 s'],
    [45.4, '45 s'],
    [89, '89 s'],
    [90, '1 min 30 s'],
    [125.5, '2 min 6 s'],
  ])('of waiting: %d', (seconds, words) => {
    expect(durationWords(seconds)).toBe(words)
  })
})

describe('what is typed', () => {
  it.each([
    ['741', 741],
    [' 741 px ', 741],
    ['1', 1],
    ['16384', 16384],
    ['0', null],
    ['16385', null],
    ['7.5', null],
    ['-3', null],
    ['wide', null],
  ])('as pixels: %s', (text, pixels) => {
    expect(parsePixels(text)).toBe(pixels)
  })

  it.each([
    ['0.8', 0.8],
    ['-2,5 °', -2.5],
    ['−2.5', -2.5],
    ['30 %', 30],
    ['+4', 4],
    ['45', 45],
    ['45.1', null],
    ['-45.1', null],
    ['', null],
  ])('as a number from -45 to 45: %s', (text, value) => {
    expect(parseNumber(text, -45, 45)).toBe(value)
  })
})

test('one is no plural', () => {
  expect([0, 1, 2].map((count) => countWords(count, 'file'))).toEqual([
    '0 files',
    '1 file',
    '2 files',
  ])
})

test('a size has the name of the one that is as large at the same density', () => {
  const place = { size: '320 px', density: 2, pixel_by_pixel: false }
  expect(isSamePlace(place, { ...place, pixel_by_pixel: true })).toBe(true)
  expect(isSamePlace(place, { ...place, density: 1 })).toBe(false)
  expect(isSamePlace(place, { ...place, size: '320 × 180 px' })).toBe(false)
  expect(placeNameOf(place, [{ id: 1, name: 'Card', place }])).toBe('Card')
  expect(placeNameOf({ ...place, density: 1 }, [{ id: 1, name: 'Card', place }])).toBeUndefined()
})

test.each([
  [100, '100.0'],
  [89.96, '90.0'],
  [-3.2, '0.0'],
])('a likeness is shown from 0 to 100: %d', (likeness, shown) => {
  expect(likenessNumber(likeness)).toBe(shown)
})
