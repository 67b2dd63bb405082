import { expect, test } from 'vitest'
import { insertSaid } from './insert-said.ts'

const script = 'Lower the stick.\n\nRead it  at the\nbottom. Then write.'

test('what was said beside the script is put after the sentence before it, as a sentence', () => {
  expect(insertSaid(script, 'Read it at the bottom.', 'this is  what most forget')).toBe(
    'Lower the stick.\n\nRead it  at the\nbottom. this is what most forget. Then write.',
  )
  expect(insertSaid(script, null, 'Good evening!')).toBe(`Good evening! ${script}`)
  expect(insertSaid(script, 'Then write.', 'Done?')).toBe(`${script} Done?`)
})

test('nothing is put where the sentence is not there any more, or nothing was said', () => {
  expect(insertSaid(script, 'Read it at the top.', 'Words')).toBeNull()
  expect(insertSaid(script, null, '  ')).toBe(script)
})
