/** What a bundle of an earlier version says, in the words of today's. */

type Said = Record<string, unknown>
const isObject = (value: unknown): value is Said => typeof value === 'object' && value !== null && !Array.isArray(value)

/** The same object with fields under other names; what is no object stays, for the schema to refuse. */
function withNames(value: unknown, names: Readonly<Record<string, string>>): unknown {
  if (!isObject(value)) return value
  return Object.fromEntries(
    Object.entries(value).map(([name, field]) => [Object.hasOwn(names, name) ? names[name] : name, field]),
  )
}

/** The same object with one field changed, where it is there. */
const changed = (value: unknown, name: string, change: (field: unknown) => unknown): unknown =>
  isObject(value) && name in value ? { ...value, [name]: change(value[name]) } : value

const each = (change: (item: unknown) => unknown) => (list: unknown) => (Array.isArray(list) ? list.map(change) : list)

/** Version 2 gave fields the names of the trade. */
function secondOfFirst(bundle: unknown): unknown {
  const alignment = (value: unknown) =>
    changed(
      withNames(value, { extra: 'offScript' }),
      'sentences',
      each((s) => withNames(s, { doubtful: 'needsReview' })),
    )
  const take = (value: unknown) => {
    const named = withNames(value, { gaps: 'dropoutCount', gapMs: 'dropoutMs' })
    const analysed = changed(named, 'analysis', (a) => withNames(a, { roomDb: 'noiseFloorDb', falseStop: 'trailingUtterance' }))
    return changed(analysed, 'alignment', (kept) => changed(kept, 'alignment', alignment))
  }
  const cue = (value: unknown) => withNames(value, { doubtful: 'needsReview', source: 'scriptText', hand: 'manualEdit' })
  let said = changed(bundle, 'lecture', (lecture) => withNames(lecture, { making: 'exportSettings' }))
  said = changed(
    said,
    'slides',
    each((slide) => withNames(slide, { findings: 'warnings' })),
  )
  said = changed(said, 'takes', each(take))
  said = changed(
    said,
    'captionTracks',
    each((track) => changed(track, 'cues', each(cue))),
  )
  return changed(said, 'version', () => 2)
}

/** Version 3 has films, of which the one before it said nothing. */
const thirdOfSecond = (bundle: unknown): unknown => changed(bundle, 'version', () => 3)

/** Version 4 has what was recorded by screen and camera, of which the one before it said nothing. */
const fourthOfThird = (bundle: unknown): unknown => changed(bundle, 'version', () => 4)

/**
 * @param said what a bundle's description says, of any version up to today's
 * @returns the same as today's version says it; what is wrong with it stays wrong
 */
export function inTodaysVersion(said: unknown): unknown {
  const second = isObject(said) && said.version === 1 ? secondOfFirst(said) : said
  const third = isObject(second) && second.version === 2 ? thirdOfSecond(second) : second
  return isObject(third) && third.version === 3 ? fourthOfThird(third) : third
}
