import { expect, test } from 'vitest'
import { isFileName } from './title.ts'

test.each([
  ['lock.png', true],
  ['…/pictures/lock.png', true],
  ['/home/somebody/my pictures/lock.png', true],
  ['C:\\Pictures of mine\\lock.JPG', true],
  ['https://example.org/a?b=1', true],
  ['Screenshot of the file lock.png', false],
  ['A lock', false],
  ['and/or', false],
  ['', false],
])('%j is a file: %j', (text, expected) => expect(isFileName(text)).toBe(expected))
