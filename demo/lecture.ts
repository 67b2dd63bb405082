/** The demo lecture: an invented evening course, its scripts, and which of its recordings belong to which slide. */

export const DEMO_TITLE = 'Reading the rain gauge'
export const DEMO_MUSIC = 'opening-music.flac'
export const DEMO_DECK = 'reading-the-rain-gauge.pdf'

export interface DemoSlide {
  script: string
  /** Recordings in `demo/files`, oldest first; the last one is kept. */
  takes: string[]
}

export const DEMO_SLIDES: DemoSlide[] = [
  {
    script:
      'Good evening, and welcome. Tonight you learn to read a rain gauge, and to write down what you read so that others can trust it. We start with what is inside, then how to read it. Bring a pencil; ink runs in the rain.',
    takes: ['take-1a.flac'],
  },
  {
    script:
      'The gauge has four parts. The funnel is eight inches across. It feeds an inner tube with a tenth of that area, so one inch of rain stands ten inches tall. That is why you can read a hundredth of an inch by eye. When the tube is full, the rest runs into the outer can. Nothing is lost. Keep the stick dry.',
    takes: ['take-2a.flac', 'take-2b.flac'],
  },
  {
    script:
      'Stand it in the open, level, away from walls. Keep it twice as far from a tree as the tree is tall. A fence counts as a small tree. If you have no such place, choose the best you have and write down why. Do not move it afterwards.',
    takes: ['take-3a.flac'],
  },
  {
    script:
      'Lower the stick gently until it touches the bottom. If you drop it, water climbs the wood and your figure is too high. Lift it straight out, turn it to the light, and look for the line where wet meets dry. Read that line to the nearest hundredth. If the wet mark is less than half a hundredth, write the letter T. It did rain; it just cannot be measured.',
    takes: ['take-4a.flac'],
  },
  {
    script:
      'If you look through the glass, you see a curve. Water climbs the wall of the tube and sags in the middle. Read the bottom of the sag, and bring your eye down level with it. From above, every reading is too high.',
    takes: ['take-5a.flac'],
  },
  {
    script:
      'Here is one week as it should look. Each line has the day, the hour, the rain and a short remark. Tuesday has a T: drizzle that could not be measured. Wednesday has a nought, and the nought is written, because an empty line could also mean that nobody looked.',
    takes: [],
  },
  {
    script:
      'Seven weeks of small figures make one picture. The dashed line is what is usual for spring. The fourth week brought three times the usual rain, and three gauges along the valley agree on it. One gauge alone would have looked like a mistake.',
    takes: ['take-7a.flac'],
  },
  {
    script:
      'Send your reading by eight each morning. Send it on dry days too, because a nought is a reading. Thank you for listening, and good measuring.',
    takes: [],
  },
]
