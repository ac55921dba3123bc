/** A connection between the machine and its storage, as far as it sets a data rate. */
export interface Link {
  readonly label: string;
  /** Bits per second on the wire, after line coding. */
  readonly lineBitsPerSecond: number;
  /** Share of the line rate that carries file data, 0 to 1. */
  readonly payloadShare: number;
  readonly roundTripUs: number;
  /** Requests the client keeps under way at once. */
  readonly depth: number;
  /** The most bytes one request carries; larger reads are split. */
  readonly requestBytes: number;
}

const headerBytes = 52;

/**
 * Share of an Ethernet line rate that carries TCP payload over IPv4: a frame of
 * `mtu` bytes holds 52 bytes of IP and TCP headers (20 and 20, and 12 for the
 * timestamps that systems send; RFC 7323) and takes 38 more on the line
 * (preamble 8, header 14, check sequence 4, gap 12; IEEE 802.3).
 * @param mtu bytes of a frame's payload: 1500, or 9000 for jumbo frames
 */
export function ethernetPayloadShare(mtu: number): number {
  if (!(mtu > headerBytes))
    throw new RangeError(`A frame carries more than ${headerBytes} bytes, got ${mtu}`);
  return (mtu - headerBytes) / (mtu + 38);
}

/** Bytes per second of file data that the line carries at most. */
export function lineRate(link: Pick<Link, 'lineBitsPerSecond' | 'payloadShare'>): number {
  return (link.lineBitsPerSecond * link.payloadShare) / 8;
}

/** Bytes per second that `depth` requests under way can fetch: depth x block / round trip. Infinite without a round trip. */
export function depthLimitedRate(link: Link, blockBytes: number): number {
  return link.roundTripUs > 0
    ? (link.depth * Math.min(blockBytes, link.requestBytes) * 1e6) / link.roundTripUs
    : Infinity;
}

/** The lower of line rate and depth-limited rate, in bytes per second. */
export function linkRate(link: Link, blockBytes: number): number {
  return Math.min(lineRate(link), depthLimitedRate(link, blockBytes));
}
