/** Words that belong to what follows them: articles, prepositions, auxiliaries, possessives, titles. No line or caption ends with one. */

/** From memory, by language; closed classes of words that grammars list. */
const LEANING: Record<string, string> = {
  en: `a an the of in on at to for from with by into onto over under about after before between through during without within
    against among across toward towards upon per via as than and or but nor so if because although though while when where
    which who whose that this these those is are was were be been being am has have had having do does did will would shall should
    can could may might must not no my your his her its our their very too more most less such each every any some
    i you he she it we they there mr mrs ms dr prof st i'm you're we're they're it's that's there's isn't aren't don't`,
  fr: `le la les l un une des du de d à au aux en dans sur sous par pour avec sans chez vers entre contre depuis pendant avant après
    et ou mais ni car que qu qui dont où si quand comme parce est sont était étaient sera seront être a ont avait avaient aura
    ai as avons avez suis es sommes êtes peut peuvent doit doivent ne n se s me m te t je j tu il elle on nous vous ils elles ce c cet
    cette ces mon ma mes ton ta tes son sa ses notre votre nos vos leur leurs très plus moins trop pas y lui m. mme mlle dr`,
  es: `el la los las un una unos unas de del a al en con sin por para sobre bajo entre hasta desde hacia según durante ante tras contra
    y e o u ni pero sino que quien cuyo donde si cuando como porque es son era eran será está están estaba ser estar ha han había
    habían he hemos puede pueden debe deben no se me te le les lo nos mi tu su mis tus sus nuestro nuestra este esta estos estas ese
    esa muy más menos tan cada algún alguna sr sra dr dra`,
  de: `der die das den dem des ein eine einen einem einer eines in im an am auf aus bei beim mit nach von vom vor zu zum zur über unter
    für durch gegen ohne um bis seit während wegen und oder aber denn sondern dass ob wenn als weil wie ist sind war waren wird
    werden wurde hat haben hatte kann können muss müssen soll will darf nicht kein keine mein dein sein ihr unser euer dieser diese
    dieses jeder jede sehr mehr ich du er sie es wir man sich herr frau dr`,
  it: `il lo la i gli le l un uno una di del dello della dei degli delle a al allo alla ai agli alle da dal dalla in nel nello nella con
    su sul sulla per tra fra e ed o ma né che chi cui dove se quando come perché è sono era erano sarà essere ha hanno aveva
    può possono deve devono non si mi ti ci vi mio tuo suo nostro vostro questo questa quel quello quella molto più meno ogni
    sig dott`,
  pt: `o a os as um uma uns umas de do da dos das em no na nos nas por pelo pela para com sem sobre sob entre até desde e ou mas nem que
    quem onde se quando como porque é são era eram será está estão estava ser estar tem têm tinha pode podem deve devem não se me te
    lhe meu minha seu sua nosso nossa este esta esse essa aquele muito mais menos cada sr sra dr`,
}

const sets = new Map(
  Object.entries(LEANING).map(([language, words]) => [language, new Set(words.split(/\s+/).filter((word) => word !== ''))]),
)

/** Words that open a clause: a break before one is a good one. From memory. */
const OPENING = new Set(
  'and but or because although though while when where which who that if so then et mais ou parce quand qui que si y pero o porque cuando und aber oder weil wenn dass e ma perché'.split(
    ' ',
  ),
)

const bare = (word: string) => word.toLowerCase().replace(/^[“"'(«¿¡]+|[”"'’)»]+$/g, '')

/** Whether a word belongs to the one after it. @param language BCP 47 */
export function leans(word: string, language: string): boolean {
  const known = sets.get(language.split('-')[0]!.toLowerCase())
  return known?.has(bare(word).replace(/\.$/, '')) ?? false
}

/** Whether a word opens a clause. */
export const opensClause = (word: string) => OPENING.has(bare(word))

/** Units of measure and what else belongs to the number before it. From memory. */
const UNIT =
  /^(%|‰|°[CF]?|[kcmµn]?m[²³]?|[km]?g|[mc]?l|[km]?s|[kMG]?Hz|[kMGT]?i?B|dB|LUFS|km\/h|[kM]?W|V|A|K|mm|cm|inch(es)?|in|feet|foot|ft|miles?|seconds?|minutes?|hours?|days?|weeks?|months?|years?|per ?cent|percent|degrees?|euros?|€|\$|litres?|liters?|grams?|metres?|meters?|millimet(re|er)s?|centimet(re|er)s?|kilomet(re|er)s?|times|o’clock)\p{P}*$/u

/** Whether two words are a number and its unit. */
export const isQuantity = (number: string, unit: string) => /^[([]?[-−+]?\d[\d.,]*$/.test(number) && UNIT.test(unit)
