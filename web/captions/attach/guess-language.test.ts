import { expect, test } from 'vitest'
import { languageOfText } from '#core/script/detect-language.ts'
import { guessLanguage, languageOfName, wordsOf } from './guess-language.ts'

test.each([
  ['lecture.fr.vtt', 'fr'],
  ['fr.srt', 'fr'],
  ['talk_pt-BR.vtt', 'pt-BR'],
  ['clouds.vtt', null],
  ['my.talk.srt', null],
])('the name %s says %s', (name, language) => expect(languageOfName(name)).toBe(language))

// invented captions
test.each([
  ['fr', 'Les nuages ont des noms. Les plus hauts sont fins et blancs, et ils sont faits de glace.'],
  ['en', 'Clouds have names. The high ones are thin and white, and they are made of ice.'],
  ['de', 'Wolken haben Namen. Die hohen sind dünn und weiß, und sie bestehen aus Eis.'],
  ['es', 'Las nubes tienen nombres. Las altas son finas y blancas, y están hechas de hielo.'],
])('a text in %s reads like it', async (language, text) => {
  const file = `1\n00:00:01,000 --> 00:00:04,000\n<b>${text}</b>\n`
  expect(wordsOf(file)).toBe(text)
  expect(await languageOfText(wordsOf(file))).toBe(language)
})

test('a few letters say nothing', async () => expect(await languageOfText('Oui.')).toBeNull())

test('name and text together, the text before the name, and the lecture where both are silent', () => {
  expect(guessLanguage('fr', 'fr', 'en')).toEqual({ language: 'fr', contradiction: null })
  expect(guessLanguage(null, 'fr', 'en').language).toBe('fr')
  expect(guessLanguage(null, null, 'en').language).toBe('en')
  expect(guessLanguage(null, 'pt', 'pt-BR').language).toBe('pt-BR')
  expect(guessLanguage('en', 'fr', 'en')).toEqual({ language: 'fr', contradiction: { byName: 'en', byText: 'fr' } })
})
