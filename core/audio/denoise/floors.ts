/**
 * The numbers that shape the denoiser, each with its reason: how deep it goes, when it leaves a recording alone, whom it believes.
 * The widths of bands are in `bands.ts` and `model-features.ts`; what is known of how the numbers were chosen stands in docs/decisions.
 */
import { toSamples } from '#core/timing/clocks.ts'

/** How deep a strength goes: 1 is as deep as the moderate one, which is 0.6. */
const depth = (strength: number) =>
  // beyond the moderate setting the floors fall more slowly, so that no strength makes a voice metallic
  strength <= 0.6 ? strength / 0.6 : 1 + (strength - 0.6) / 1.6

/** How far pauses and the noise under words fall at a strength, dB. @param strength 0 to 1; 0.6 is moderate */
export function floorsAt(strength: number): { speechDb: number; pauseDb: number } {
  return { speechDb: -38 * depth(strength), pauseDb: -48 * depth(strength) }
}

/** How the noise is followed. */
export const NOISE = {
  /** Share of frames, the quietest ones, taken for a first picture of the noise. */
  quietShare: 0.12,
  /** Smoothing from frame to frame: 0.8 and 0.9 of Gerkmann & Hendriks 2012 are meant for frames 16 ms apart; ours are 5.3 ms apart. */
  keepNoise: 0.8 ** (1 / 3),
  keepPresence: 0.9 ** (1 / 3),
  /** Ratio of voice to noise that is expected where a voice is present: 15 dB, as in Gerkmann & Hendriks 2012 (value from memory). */
  priorRatio: 10 ** 1.5,
  /** The geometric mean of two passes lies a little above the noise where speech begins and ends (measured). */
  bias: 0.9,
  /** Energy of a frame, below which it is digital silence (padding, a muted second) and says nothing of the room. */
  silentEnergy: 1e-9,
  /** Power of a unit; never less, so that nothing is divided by 0. */
  leastPower: 1e-13,
  /** Frames before and after in which a room hardly changes its colour: 2.1 s. */
  steadyFrames: 400,
}

/** Whom the suppressor believes: statistics, or the voice model. */
export const BELIEF = {
  /** Decision-directed smoothing (Ephraim & Malah 1984, equation 51). */
  smoothing: 0.94,
  /** The ratio of voice to noise is never taken for less, −18 dB: single units would come and go. */
  leastRatio: 10 ** (-18 / 10),
  /** The voice model's share in the a-priori ratio and in the gain; the statistical part has the rest. */
  modelInRatio: 0.5,
  modelInGain: 0.8,
  /** The statistical part takes soft sounds for noise: it is given so much of what was followed, and the model all of it. */
  noiseCounted: 0.85,
  /** Where the voice stands far out of the noise the model has nothing to add and only takes away: its say fades between these, in bels. */
  modelHeardBelow: 1.0,
  modelSilentAbove: 2.2,
}

/** When a recording is treated at all. */
export const TREATMENT = {
  /** Recordings that are clean already are left alone: the treatment fades out between these ratios of voice to room, dB. */
  allBelowDb: 44,
  noneAboveDb: 54,
  /** What lies below 70 Hz is left alone under the first and filtered out above the second, dB relative to the voice. */
  noRumbleDb: -46,
  rumbleDb: -36,
  /** Frames of pause that are needed to judge the room by them. */
  fewestPauses: 10,
}

/** Where a voice counts as present. */
export const PRESENCE = {
  /** From speech to pause and back the treatment changes over so many samples. */
  slopeSamples: toSamples(0.03),
  /** Where a stretch of speech begins and ends the model may be unsure: between these probabilities it is a voice by part. */
  unlikely: 0.15,
  likely: 0.6,
  /** What is surely a voice, as `findSpeech` has it; and how far around a step its surest neighbour is looked for. */
  sure: 0.8,
  nearSteps: 2,
  /** What is so much softer than what is surely said is not said (power, −42 dB): hum that was not wholly taken away has the harmonics of a voice, too. */
  said: 0.8,
  leastSaid: 10 ** (-42 / 10),
}

/** How a long recording is worked in blocks. */
export const BLOCKS = {
  /** Samples of a block, and of what is heard of its neighbours on either side. */
  length: toSamples(7.5),
  margin: toSamples(0.6),
  /** Blocks begin at whole tenths of a second, as the steps of loudness do. */
  grid: toSamples(0.1),
  /** Blocks meet in a cross-fade of so many samples. */
  seam: toSamples(0.02),
  /** What lies below any voice is too slow for the short-time spectrum to tell it from the voice: it goes first. Hz. */
  subsonicHz: 22,
}
