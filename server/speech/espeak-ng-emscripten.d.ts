/** What is used of the library, which ships no types. */
declare module '@echogarden/espeak-ng-emscripten' {
  export interface EspeakEvent {
    type: 'samplerate' | 'sentence' | 'word' | 'phoneme' | 'end' | 'mark' | 'play' | 'msg_terminated'
    /** Counted from 1, code points. */
    text_position: number
    word_length: number
    /** Milliseconds. */
    audio_position: number
  }
  export interface EspeakWorker {
    /** @returns 0 when the voice is there */
    set_voice(name: string): number
    get_samplerate(): number
    /** @returns how it would be said, in signs of the International Phonetic Alphabet: `_` between signs, a space between words */
    synthesize_ipa(text: string): { code: number; ipa: string }
    /** @param heard returns true to stop */
    synthesize(text: string, heard: (samples: Int16Array | null, events: EspeakEvent[]) => boolean): void
  }
  export default function load(): Promise<{ eSpeakNGWorker: new () => EspeakWorker }>
}
