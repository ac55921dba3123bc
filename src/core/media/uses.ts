import { noDecoder } from './identity';

/** What a file can serve for, decodable or not. */
export interface ClipUse {
  readonly use:
    | 'Decoding and playback'
    | 'Renditions'
    | 'Rates and planning'
    | 'Streams from storage'
    | 'Copies and throughput';
  readonly possible: boolean;
  readonly why: string;
}

interface Known {
  readonly status: 'ready' | 'unplayable' | 'missing';
  /** Its packets are known with their places. */
  readonly hasPackets: boolean;
  readonly hasDecoder: boolean;
}

/** What can be done with a file, given what is known of it. */
export function clipUses({ status, hasPackets, hasDecoder }: Known): ClipUse[] {
  const there = status !== 'missing';
  const plays = status === 'ready';
  const noPictures = hasDecoder ? 'It is damaged or cannot be read by byte range.' : noDecoder;
  return [
    {
      use: 'Decoding and playback',
      possible: plays,
      why: plays ? 'It decodes here.' : there ? noPictures : 'The file is not there.',
    },
    {
      use: 'Renditions',
      possible: plays,
      why: plays ? 'It decodes here.' : there ? 'Renditions need decoded frames.' : 'The file is not there.',
    },
    {
      use: 'Rates and planning',
      possible: hasPackets,
      why: hasPackets ? 'The size of every frame is known.' : 'Only the size of the file is known.',
    },
    {
      use: 'Streams from storage',
      possible: there && hasPackets,
      why: hasPackets
        ? there
          ? 'Its packet pattern can be read without decoding.'
          : 'The file is not there.'
        : 'Where its frames lie is not known.',
    },
    {
      use: 'Copies and throughput',
      possible: there,
      why: there ? 'Any file can be copied and read.' : 'The file is not there.',
    },
  ];
}
