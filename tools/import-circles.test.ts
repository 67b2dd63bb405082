import { expect, test } from 'vitest'
import { circles } from './import-circles.ts'

const graph = (text: string) => {
  const edges = new Map<string, Set<string>>()
  for (const [from, to] of text.split(' ').map((edge) => edge.split('>') as [string, string])) {
    edges.set(from, (edges.get(from) ?? new Set()).add(to))
    edges.set(to, edges.get(to) ?? new Set())
  }
  return edges
}

test('what leads back to itself is a circle, all of it and nothing else', () => {
  expect(circles(graph('a>b b>c a>c'))).toEqual([])
  expect(circles(graph('a>b b>a'))).toEqual([['a', 'b']])
  expect(circles(graph('start>a a>b b>c c>a c>end'))).toEqual([['a', 'b', 'c']])
  expect(circles(graph('a>b b>a b>c c>d d>e e>c'))).toEqual([
    ['a', 'b'],
    ['c', 'd', 'e'],
  ])
  // two rings that share a member are one
  expect(circles(graph('a>b b>a b>c c>b'))).toEqual([['a', 'b', 'c']])
  // a way in from the side, visited after the circle was found
  expect(circles(graph('a>b b>a z>a z>y'))).toEqual([['a', 'b']])
})
