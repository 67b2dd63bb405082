/** A screen or a camera that is open. */
export interface OpenPictures {
  track: MediaStreamVideoTrack
  /** For a look at it. */
  stream: MediaStream
  name: string
  close(): void
}
