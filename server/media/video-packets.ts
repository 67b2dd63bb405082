/** The packets of a file's pictures, without their content. */
import { ALL_FORMATS, EncodedPacketSink, FilePathSource, Input } from 'mediabunny'

export interface VideoPacket {
  /** Moment, seconds. */
  at: number
  bytes: number
}

/** @returns one for each picture, in the order of the file; none for a file without a moving picture */
export async function videoPackets(path: string): Promise<VideoPacket[]> {
  const input = new Input({ source: new FilePathSource(path), formats: ALL_FORMATS })
  try {
    const packets: VideoPacket[] = []
    const track = await input.getPrimaryVideoTrack()
    if (!track) return packets
    for await (const packet of new EncodedPacketSink(track).packets(undefined, undefined, { metadataOnly: true }))
      packets.push({ at: packet.timestamp, bytes: packet.byteLength })
    return packets
  } finally {
    input.dispose()
  }
}
