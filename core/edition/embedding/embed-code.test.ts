import { expect, test } from 'vitest'
import { embedCode, frameWithin } from './embed-code.ts'

test('a frame keeps the form of the video within the room there is', () => {
  expect(frameWithin()).toEqual({ width: 960, height: 664 })
  expect(frameWithin({ width: 480 })).toEqual({ width: 480, height: 394 })
  const { width, height } = frameWithin({ width: 2000, height: 400 })
  expect(height).toBeLessThanOrEqual(400)
  expect(width / (height - 124)).toBeCloseTo(16 / 9, 1)
})

test('a title with signs of HTML stays a title', () => {
  const code = embedCode('https://school.example/watch/abc?x=1&y=2', 'Rain "and" <snow>')
  expect(code).toContain('title="Rain &quot;and&quot; &lt;snow&gt;"')
  expect(code).toContain('src="https://school.example/watch/abc?x=1&amp;y=2"')
})
