/** Times, scripts and transcripts as text, and the kinds of video down to their numbers. */
import { describe, expect, test } from 'vitest'
import { DEFAULT_EXPORT_SETTINGS } from '#core/model/export-settings.ts'
import { lecture, slide } from '#tests/made/lecture.ts'
import { scriptMarkdown, scriptsOf, scriptText, timingsCsv } from './timings.ts'
import { readingClock, type TranscriptPart, transcriptHtml, transcriptOf, transcriptText } from './transcript.ts'
import { formOf, gridSamples, soundOnlyForm } from './video-form.ts'

describe('times as CSV (RFC 4180)', () => {
  const rows = (...titles: string[]) =>
    timingsCsv(lecture(titles.map((title, i) => slide(`${i}`, 3, { title }))))
      .split('\r\n')
      .map((line) => line)
  test('a row a slide, with its start and length to the millisecond, each line ended', () => {
    const [head, first, second, end] = rows('Rain', 'Snow')
    expect(head).toBe('slide,title,start,length')
    expect(first).toMatch(/^1,Rain,0\.000,\d+\.\d{3}$/)
    const length = Number(first!.split(',')[3])
    expect(second).toMatch(/^2,Snow,/)
    expect(Number(second!.split(',')[2])).toBeCloseTo(length, 3)
    expect(end).toBe('')
  })
  test('quotes, commas and line breaks are quoted', () => {
    expect(rows('a,b')[1]).toMatch(/^1,"a,b",/)
    expect(rows('say "rain"')[1]).toMatch(/^1,"say ""rain""",/)
    expect(timingsCsv(lecture([slide('a', 3, { title: 'a\nb' })]))).toContain('"a\nb"')
    expect(timingsCsv(lecture([slide('a', 3, { title: 'a\rb' })]))).toContain('"a\rb"')
  })
  test.each(['=1+1', '+1', '-1', '@x', '\tx'])('%j is no formula for a spreadsheet (OWASP, CSV Injection)', (title) => {
    expect(rows(title)[1]!.startsWith(`1,'${title}`)).toBe(true)
  })
  test('a sign further on is left alone', () => expect(rows('a=b')[1]).toMatch(/^1,a=b,/))
})

describe('scripts', () => {
  const l = lecture([
    slide('a', 3, { title: 'Rain\n and  snow', script: '  It rains.\n\n\n\nIt snows. ' }),
    slide('b', 3, { title: '', script: '' }),
    slide('c', 3, { title: 'End', script: 'Bye.' }),
  ])
  test('as Markdown: a heading a slide, no more than one empty line', () => {
    expect(scriptMarkdown(l)).toBe('# L\n\n## Rain and snow\n\nIt rains.\n\nIt snows.\n\n## Slide 2\n\n## End\n\nBye.\n')
  })
  test('as plain text, numbered', () => {
    expect(scriptText(l)).toBe('L\n\n1. Rain\n and  snow\nIt rains.\n\n\n\nIt snows.\n\n2.\n\n3. End\nBye.\n')
  })
  test('they come back by their headings', () => {
    expect(scriptsOf(scriptMarkdown(l))).toEqual([
      { title: 'Rain and snow', script: 'It rains.\n\nIt snows.' },
      { title: 'Slide 2', script: '' },
      { title: 'End', script: 'Bye.' },
    ])
  })
  test('without headings lines of dashes divide; a byte order mark and other line ends do no harm', () => {
    expect(scriptsOf('\uFEFFOne.\r\n---\r\nTwo.\r\nMore.\r\n-----  \r\nThree.')).toEqual([
      { title: null, script: 'One.' },
      { title: null, script: 'Two.\nMore.' },
      { title: null, script: 'Three.' },
    ])
    expect(scriptsOf('One -- two\n--\nthree')).toEqual([{ title: null, script: 'One -- two\n--\nthree' }])
  })
  test('with headings dashes are text, and what stands before the first belongs to no slide', () => {
    expect(scriptsOf('# Title\n\nlost\n## A\none\n---\ntwo\n##B\n##   C\nthree')).toEqual([
      { title: 'A', script: 'one\n---\ntwo\n##B' },
      { title: 'C', script: 'three' },
    ])
  })
})

describe('transcripts', () => {
  const chapter = (title: string, startSamples: number, lengthSamples: number, more = {}) => ({
    title,
    altText: 'A cloud',
    startSamples,
    lengthSamples,
    picture: '',
    loudnessLufs: null,
    ...more,
  })
  const chapters = [
    chapter('Rain', 0, 96_000, { section: 'Water & ice' }),
    chapter('', 96_000, 48_000),
    chapter('A cloud', 144_000, 48_000),
  ]
  const cues = [
    { start: 0, text: 'It\nrains.' },
    { start: 1.999, text: 'Still.' },
    { start: 2, text: 'Now <not>.' },
    { start: 9, text: 'After the end.' },
  ]
  const parts = transcriptOf({ chapters, language: 'en' }, cues)
  test('each slide has what begins on it', () => {
    expect(parts.map((part) => [part.title, part.section, part.startSeconds, part.said.map((s) => s.text)])).toEqual([
      ['Rain', 'Water & ice', 0, ['It rains.', 'Still.']],
      ['Slide 2', '', 2, ['Now <not>.']],
      ['A cloud', '', 3, []],
    ])
    expect(parts[0]!.said[1]!.startSeconds).toBe(1.999)
  })
  test('as plain text', () => {
    const text = transcriptText({ title: 'L', author: 'The teacher', language: 'en' }, parts)
    expect(text).toBe(
      'L\nThe teacher\n\nWATER & ICE\n\n0:00  Rain\n[A cloud]\nIt rains. Still.\n\n0:02  Slide 2\n[A cloud]\nNow <not>.\n\n0:03  A cloud\n',
    )
    expect(transcriptText({ title: 'L', author: '', language: 'en' }, [])).toBe('L\n')
  })
  test('as a page: headings one level down where there are sections, and nothing of it is markup', () => {
    const html = transcriptHtml({ title: 'L "1"', author: 'A & B', language: 'en' }, parts)
    expect(html).toContain('<title>L &quot;1&quot;</title>')
    expect(html).toContain('<p>A &amp; B</p>')
    expect(html).toContain(
      '<h2>Water &amp; ice</h2>\n<section>\n<h3><time>0:00</time> Rain</h3>\n<p class="picture">A cloud</p>\n<p>It rains. Still.</p>',
    )
    expect(html).toContain('Now &lt;not&gt;.')
    expect(html).toContain('<h3><time>0:03</time> A cloud</h3>\n</section>')
    expect(html.match(/<h2>/g)).toHaveLength(1)
    const plain: TranscriptPart[] = parts.map((part) => ({ ...part, section: '' }))
    const undivided = transcriptHtml({ title: 'L', author: '', language: 'pt-BR' }, plain)
    expect(undivided).toContain('<html lang="pt-BR" dir="ltr">')
    expect(undivided).toContain('<h1>L</h1>\n<section>')
    expect(undivided.match(/<h2>/g)).toHaveLength(3)
    expect(undivided).not.toContain('<h3>')
  })
  test.each([
    [0, '0:00'],
    [59.9, '0:59'],
    [60, '1:00'],
    [3599, '59:59'],
    [3600, '1:00:00'],
    [3661, '1:01:01'],
    [36_000 + 600, '10:10:00'],
  ])('%d s is read as %s', (seconds, read) => expect(readingClock(seconds)).toBe(read))
})

describe('kinds of video', () => {
  const at = (height: 720 | 1080 | 2160) => ({ ...DEFAULT_EXPORT_SETTINGS, height })
  test('they are sixteen to nine at the height that is wanted; the small one is 720 lines whatever is', () => {
    expect(formOf(at(1080), 'standard')).toMatchObject({
      width: 1920,
      height: 1080,
      container: 'mp4',
      rate: null,
      file: 'video.mp4',
    })
    expect(formOf(at(2160), 'standard')).toMatchObject({ width: 3840, height: 2160 })
    expect(formOf(at(720), 'open')).toMatchObject({ width: 1280, height: 720, container: 'webm', file: 'video.webm' })
    expect(formOf(at(2160), 'small')).toMatchObject({ width: 1280, height: 720, file: 'video-small.mp4' })
    expect(formOf(at(1080), 'everywhere')).toMatchObject({ rate: 10, file: 'video-everywhere.mp4' })
  })
  test('their sounds', () => {
    expect(formOf(at(1080), 'standard').sound).toEqual({ codec: 'aac', channels: 2, kilobits: 128 })
    expect(formOf(at(1080), 'everywhere').sound).toEqual({ codec: 'aac', channels: 2, kilobits: 128 })
    expect(formOf(at(1080), 'small').sound).toEqual({ codec: 'aac', channels: 1, kilobits: 64 })
    expect(formOf(at(1080), 'open').sound).toEqual({ codec: 'opus', channels: 2, kilobits: 96 })
    expect(soundOnlyForm({ presets: ['small'] }).channels).toBe(1)
    expect(soundOnlyForm({ presets: ['small', 'standard'] }).channels).toBe(2)
  })
  test('ten pictures a second lie 4800 samples apart', () => expect(gridSamples(10)).toBe(4800))
})
