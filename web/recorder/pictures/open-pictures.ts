/** A screen or a camera that is open. */
export interface OpenPictures {
  track: MediaStreamVideoTrack
  /** For a look at it. */
  stream: MediaStream
  name: string
  /** Drawn by this page, for trying things out. */
  isPractice: boolean
  close(): void
}
