import { expect, test } from 'vitest'
import { fittingSize, inOrder, type WatchedVideo } from './use-video-choice.ts'

const video = (preset: WatchedVideo['preset']): WatchedVideo => ({
  preset,
  file: preset,
  contentType: 'video/mp4',
  width: 1,
  height: 1,
  bytes: 1,
})

test('a small screen, a slow line and a wish to save have the small video, else the large one is played', () => {
  expect(fittingSize(2560, undefined)).toBe('large')
  expect(fittingSize(2560, { effectiveType: '4g', downlink: 10 })).toBe('large')
  expect(fittingSize(1280, undefined)).toBe('small')
  expect(fittingSize(2560, { effectiveType: '3g', downlink: 1.4 })).toBe('small')
  expect(fittingSize(2560, { effectiveType: '4g', downlink: 1.4 })).toBe('small')
  expect(fittingSize(2560, { saveData: true, downlink: 10 })).toBe('small')
})

test('videos of the wanted size come first, each group as the teacher ordered it', () => {
  const all = (['everywhere', 'small', 'standard', 'open'] as const).map(video)
  expect(inOrder(all, 'small').map((one) => one.preset)).toEqual(['small', 'everywhere', 'standard', 'open'])
  expect(inOrder(all, 'large').map((one) => one.preset)).toEqual(['everywhere', 'standard', 'open', 'small'])
})
