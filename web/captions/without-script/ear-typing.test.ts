import { expect, test } from 'vitest'
import { EarTyping } from './ear-typing.ts'

function made() {
  const told: string[] = []
  const player = { play: (from: number) => told.push(`play ${from.toFixed(2)}`), pause: () => told.push('pause') }
  return { told, typing: new EarTyping(player) }
}

test('a phrase plays from a little before it to a little after it, and then waits', () => {
  const { told, typing } = made()
  typing.hear({ start: 2, end: 4 })
  typing.at(3.9)
  typing.at(4.05)
  expect(told).toEqual(['play 1.85'])
  typing.at(4.1)
  typing.at(4.2)
  expect(told).toEqual(['play 1.85', 'pause'])
})

test('what begins the lecture begins at its beginning, and what is left plays on', () => {
  const { told, typing } = made()
  typing.hear({ start: 0.1, end: 1 })
  typing.leave()
  typing.at(5)
  expect(told).toEqual(['play 0.00'])
})

test('who goes on somewhere else is not stopped there', () => {
  const { told, typing } = made()
  typing.hear({ start: 2, end: 4 })
  typing.at(9)
  typing.at(4.2)
  expect(told).toEqual(['play 1.85'])
})
