import type { PacketTable } from '@/core/media/packetTable';
import type { Rational } from '@/core/time/rational';
import { fileError } from '../errors';
import { openInPlace } from '../inPlace';
import { hasFiles } from './joinedFiles';
import { openMedia } from './mediaBytes';
import type { CodecSetup } from './streamFacts';

/** What is needed to decode frames of an indexed clip. */
export interface ClipSource {
  readonly path: string;
  readonly setup: CodecSetup;
  readonly rate: Rational;
  readonly packets: PacketTable;
}

/** Where a clip's bytes come from. What it gives is valid until the next read. */
export interface BytesReader {
  read(offset: number, bytes: number): Promise<Buffer>;
  close(): Promise<void>;
}

/** A clip as it is, through the system's cache. @throws EngineError when the file cannot be opened */
export async function plainReader(
  clip: Pick<ClipSource, 'path' | 'setup' | 'packets'>,
): Promise<BytesReader> {
  const { path } = clip;
  if (hasFiles(clip.setup)) return openMedia(clip, 'plain');
  const file = await openInPlace(path).catch((error: unknown) => {
    throw fileError(error, path);
  });
  return {
    read: async (offset, bytes) => {
      const data = Buffer.alloc(bytes);
      await file.read(data, 0, bytes, offset);
      return data;
    },
    close: () => file.close(),
  };
}
