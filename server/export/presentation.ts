/**
 * A narrated presentation file: each slide's picture, notes, description and sound, which begins by itself, and the slide that goes on by
 * itself at the schedule's time. Written by a general library; what it does not write is added here.
 *
 * @see ECMA-376, part 1, §19.3.1.50 (transition, advTm in milliseconds), §19.5 (timing), §20.1.3.1 (audioFile)
 */
import { readFile, rm } from 'node:fs/promises'
import { createRequire } from 'node:module'
import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate'
import type PptxGenJS from 'pptxgenjs'
import sharp from 'sharp'
import { PRE_ROLL_SAMPLES } from '#core/audio/mix/mix.ts'
import { plan } from '#core/edition/plan.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import type { AppContext } from '#server/context/context.ts'
import { bytesOf } from '#server/media/sound-files.ts'
import { mixedSlide } from '#server/publish/sound-segment.ts'

const [WIDE, HIGH] = [13.333, 7.5]
/** As slide programs have it: the sign of the sound lies outside the slide. */
const SIGN = { x: WIDE + 0.2, y: 0, w: 0.4, h: 0.4 }

const Pptx = createRequire(import.meta.url)('pptxgenjs') as typeof PptxGenJS

/** Plays the sound of shape `id` as soon as the slide is shown. */
const playsItself = (id: string, ms: number) =>
  `<p:timing><p:tnLst><p:par><p:cTn id="1" dur="indefinite" restart="never" nodeType="tmRoot"><p:childTnLst><p:seq concurrent="1" nextAc="seek"><p:cTn id="2" dur="indefinite" nodeType="mainSeq"><p:childTnLst><p:par><p:cTn id="3" fill="hold"><p:stCondLst><p:cond delay="indefinite"/><p:cond evt="onBegin" delay="0"><p:tn val="2"/></p:cond></p:stCondLst><p:childTnLst><p:par><p:cTn id="4" fill="hold"><p:stCondLst><p:cond delay="0"/></p:stCondLst><p:childTnLst><p:par><p:cTn id="5" presetID="1" presetClass="mediacall" presetSubtype="0" fill="hold" nodeType="afterEffect"><p:stCondLst><p:cond delay="0"/></p:stCondLst><p:childTnLst><p:cmd type="call" cmd="playFrom(0.0)"><p:cBhvr><p:cTn id="6" dur="${ms}" fill="hold"/><p:tgtEl><p:spTgt spid="${id}"/></p:tgtEl></p:cBhvr></p:cmd></p:childTnLst></p:cTn></p:par></p:childTnLst></p:cTn></p:par></p:childTnLst></p:cTn></p:par></p:childTnLst></p:cTn><p:prevCondLst><p:cond evt="onPrev" delay="0"><p:tgtEl><p:sldTgt/></p:tgtEl></p:cond></p:prevCondLst><p:nextCondLst><p:cond evt="onNext" delay="0"><p:tgtEl><p:sldTgt/></p:tgtEl></p:cond></p:nextCondLst></p:seq><p:audio><p:cMediaNode vol="80000" showWhenStopped="0"><p:cTn id="7" fill="hold" display="0"><p:stCondLst><p:cond delay="indefinite"/></p:stCondLst></p:cTn><p:tgtEl><p:spTgt spid="${id}"/></p:tgtEl></p:cMediaNode></p:audio></p:childTnLst></p:cTn></p:par></p:tnLst></p:timing>`

/** Says how long a slide stays and, where it has sound, that it plays by itself; the sound is called a sound and not a film. */
function timed(xml: string, ms: number, hasSound: boolean): string {
  const named = xml.replaceAll('<a:videoFile ', '<a:audioFile ')
  const id = hasSound
    ? /<p:pic>\s*<p:nvPicPr>\s*<p:cNvPr id="(\d+)"(?:(?!<\/p:pic>)[\s\S])*?<a:audioFile /.exec(named)?.[1]
    : undefined
  const added = `<p:transition advClick="1" advTm="${ms}"/>${id ? playsItself(id, ms) : ''}`
  return named.replace('</p:sld>', `${added}</p:sld>`)
}

async function slideSound(context: AppContext, slide: Parameters<typeof mixedSlide>[1], signal: AbortSignal): Promise<Buffer> {
  const { stereo } = await mixedSlide(context, slide, signal)
  const out = context.store.scratchPath('.m4a')
  try {
    const input = ['-protocol_whitelist', 'file,pipe', '-f', 's16le', '-ar', '48000', '-ac', '2', '-i', 'pipe:0']
    await context.media.run([...input, '-c:a', 'aac', '-b:a', '96k', '-movflags', '+faststart', '-f', 'ipod', out], {
      input: bytesOf(stereo.subarray(2 * PRE_ROLL_SAMPLES)),
      signal,
    })
    return await readFile(out)
  } finally {
    await rm(out, { force: true })
  }
}

export async function narratedPresentation(context: AppContext, lecture: Lecture, signal: AbortSignal): Promise<Uint8Array> {
  const edition = plan(lecture)
  const scripts = new Map(lecture.slides.map((slide) => [slide.id, slide.script]))
  const deck = new Pptx()
  deck.defineLayout({ name: 'SIXTEEN_NINE', width: WIDE, height: HIGH })
  deck.layout = 'SIXTEEN_NINE'
  deck.title = lecture.title
  if (lecture.exportSettings.author) deck.author = lecture.exportSettings.author
  const told: { ms: number; hasSound: boolean }[] = []
  for (const slide of edition.slides) {
    signal.throwIfAborted()
    const page = deck.addSlide()
    page.background = { color: '000000' }
    const picture = await sharp(await context.store.read(slide.pictures.at(-1)!.picture))
      .png()
      .toBuffer({ resolveWithObject: true })
    const scale = Math.min(WIDE / picture.info.width, HIGH / picture.info.height)
    const [w, h] = [picture.info.width * scale, picture.info.height * scale]
    const data = `image/png;base64,${picture.data.toString('base64')}`
    page.addImage({ data, x: (WIDE - w) / 2, y: (HIGH - h) / 2, w, h, altText: slide.altText || slide.title })
    // titles are there for outlines and screen readers
    page.addText(slide.title, { x: 0, y: -1, w: WIDE, h: 0.8, fontSize: 20 })
    const script = scripts.get(slide.slideId)?.trim()
    if (script) page.addNotes(script)
    const hasSound = slide.sound !== null || slide.beds.some((bed) => bed.to > PRE_ROLL_SAMPLES)
    if (hasSound) {
      const sound = await slideSound(context, slide, signal)
      page.addMedia({ type: 'audio', data: `audio/m4a;base64,${sound.toString('base64')}`, extn: 'm4a', ...SIGN })
    }
    told.push({ ms: Math.round(toSeconds(slide.lengthSamples) * 1000), hasSound })
  }
  const parts = unzipSync(new Uint8Array((await deck.write({ outputType: 'nodebuffer' })) as Buffer))
  for (const [i, { ms, hasSound }] of told.entries()) {
    const name = `ppt/slides/slide${i + 1}.xml`
    const rels = `ppt/slides/_rels/slide${i + 1}.xml.rels`
    parts[name] = strToU8(timed(strFromU8(parts[name]!), ms, hasSound))
    parts[rels] = strToU8(strFromU8(parts[rels]!).replaceAll('relationships/video"', 'relationships/audio"'))
  }
  return zipSync(parts, { level: 1 })
}
