/** Figures of one way of cleaning over all recordings. */
import { estoi } from '../measure/intelligibility.ts'
import { levelIn, logKurtosisRatio, siSdr, worstPiece } from '../measure/signal.ts'
import { type Recording, STATIONARY } from './corpus.ts'

export interface Row {
  recording: Recording
  estoi: number
  estoiGain: number
  sdr: number
  sdrGain: number
  floorDb: number
  worstPieceDb: number
  kurtosis: number
  levelDb: number
}

export function rowOf(recording: Recording, cleaned: Float32Array, before: { estoi: number; sdr: number }): Row {
  const { clean, noisy, pauses, phrases } = recording
  const [e, sdr] = [estoi(clean, cleaned), siSdr(clean, cleaned)]
  return {
    recording,
    estoi: e,
    estoiGain: e - before.estoi,
    sdr,
    sdrGain: sdr - before.sdr,
    floorDb: levelIn(cleaned, pauses),
    worstPieceDb: worstPiece(cleaned, pauses),
    kurtosis: recording.noise === 'none' ? 0 : logKurtosisRatio(noisy, cleaned, pauses),
    levelDb: levelIn(cleaned, phrases) - levelIn(clean, phrases),
  }
}

const mean = (values: number[]) => (values.length === 0 ? Number.NaN : values.reduce((a, b) => a + b, 0) / values.length)

/** The figures of the table, by name. */
export function summary(rows: Row[]): Record<string, number> {
  const noisy = rows.filter((r) => r.recording.noise !== 'none')
  const clean = rows.filter((r) => r.recording.noise === 'none')
  const at = (snr: number) => noisy.filter((r) => r.recording.snr === snr && STATIONARY.includes(r.recording.noise as never))
  const of = (noise: string) => noisy.filter((r) => r.recording.noise === noise)
  const ten = noisy.filter((r) => r.recording.snr === 10 && r.recording.noise !== 'clicks')
  return {
    'ESTOI against noisy, worst': Math.min(...noisy.map((r) => r.estoiGain)),
    'ESTOI gain, stationary 10 dB, mean': mean(at(10).map((r) => r.estoiGain)),
    'ESTOI change on clean, worst': Math.min(...clean.map((r) => r.estoiGain)),
    'SI-SDR gain, stationary 10 dB, mean': mean(at(10).map((r) => r.sdrGain)),
    'SI-SDR gain, stationary 20 dB, mean': mean(at(20).map((r) => r.sdrGain)),
    'SI-SDR gain, rumble, mean': mean(of('rumble').map((r) => r.sdrGain)),
    'SI-SDR of clean input, worst': Math.min(...clean.map((r) => r.sdr)),
    'floor in pauses at 10 dB, worst': Math.max(...ten.map((r) => r.floorDb)),
    'log-kurtosis ratio above −75 dBFS, worst': Math.max(0, ...noisy.filter((r) => r.floorDb > -75).map((r) => r.kurtosis)),
    'loudest 50 ms in pauses with clicks, worst': Math.max(...of('clicks').map((r) => r.worstPieceDb)),
    'speech level change, mean': mean(noisy.map((r) => r.levelDb)),
  }
}

/** Name of the recording with the lowest value: where to look. */
export function worst(rows: Row[], value: (row: Row) => number): string {
  const [first] = [...rows].sort((a, b) => value(a) - value(b))
  return first ? `${first.recording.name}: ${value(first).toFixed(3)}` : '–'
}
