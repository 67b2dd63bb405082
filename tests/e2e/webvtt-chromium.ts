/** What Chromium makes of caption files, beside what we make of them. */
import type { Page } from '@playwright/test'
import { type CueNode, parseCueText } from '#core/captions/formats/webvtt/cue-text.ts'
import { parseWebVtt } from '#core/captions/formats/webvtt/parse.ts'
import { timestamp } from '#core/captions/formats/webvtt/timestamp.ts'
import { WEBVTT_INPUTS } from './webvtt-inputs.ts'

const ELEMENTS = { c: 'span', i: 'i', b: 'b', u: 'u', ruby: 'ruby', rt: 'rt', v: 'span', lang: 'span' }

/** A tree in the words of the standard's rules for turning it into HTML (W3C WebVTT, "cue text DOM construction rules"). */
function html(nodes: readonly CueNode[]): unknown[] {
  return nodes.map((node) => {
    if (node.kind === 'text') return node.text
    if (node.kind === 'timestamp') return { moment: timestamp(node.seconds) }
    return {
      tag: ELEMENTS[node.kind],
      class: node.classes.join(' '),
      title: node.kind === 'v' ? node.annotation : '',
      lang: node.kind === 'lang' ? node.annotation : '',
      children: html(node.children),
    }
  })
}

/** As a browser tells: Chromium has no regions and no alignment of lines and positions. */
export function ours(file: string) {
  return parseWebVtt(file)
    .cues.map((cue) => ({
      id: cue.id,
      start: cue.start,
      end: cue.end,
      text: cue.text,
      vertical: cue.placed.vertical,
      line: cue.placed.line,
      snapToLines: cue.placed.snapToLines,
      position: cue.placed.position,
      size: cue.placed.size,
      align: cue.placed.align,
      tree: html(parseCueText(cue.text)),
    }))
    .sort((a, b) => a.start - b.start || b.end - a.end)
}

/** @returns the inputs that Chromium reads otherwise */
export async function differingFromChromium(page: Page) {
  // what compiles this for the bench names functions by a helper that pages do not have
  await page.addInitScript('globalThis.__name = (f) => f')
  await page.route('http://captions.test/', (route) =>
    route.fulfill({ contentType: 'text/html', body: '<!doctype html><p></p>' }),
  )
  await page.goto('http://captions.test/')
  const theirs = await page.evaluate(async (files) => {
    const tree = (node: Node): unknown => {
      if (node instanceof ProcessingInstruction) return { moment: node.data }
      if (!(node instanceof HTMLElement)) return node.textContent
      return {
        tag: node.localName,
        class: [...node.classList].join(' '),
        title: node.title,
        lang: node.lang,
        children: [...node.childNodes].map(tree),
      }
    }
    const read = (file: string) =>
      new Promise<unknown>((resolve) => {
        const video = document.createElement('video')
        const track = document.createElement('track')
        const end = () => {
          const cues = [...(track.track.cues ?? [])] as VTTCue[]
          resolve(
            cues.map((cue) => ({
              id: cue.id,
              start: cue.startTime,
              end: cue.endTime,
              text: cue.text,
              vertical: cue.vertical,
              line: cue.line,
              snapToLines: cue.snapToLines,
              position: cue.position,
              size: cue.size,
              align: cue.align,
              // an empty text is nothing
              tree: cue.text === '' ? [] : [...cue.getCueAsHTML().childNodes].map(tree),
            })),
          )
          video.remove()
        }
        track.onload = end
        track.onerror = end
        track.src = URL.createObjectURL(new Blob([file], { type: 'text/vtt' }))
        video.append(track)
        document.body.append(video)
        track.track.mode = 'hidden'
      })
    const all: unknown[] = []
    for (const file of files) all.push(await read(file))
    return all
  }, WEBVTT_INPUTS)
  return WEBVTT_INPUTS.flatMap((file, i) => {
    const [mine, chromium] = [JSON.stringify(ours(file)), JSON.stringify(theirs[i])]
    return mine === chromium ? [] : [{ file, mine, chromium }]
  })
}
