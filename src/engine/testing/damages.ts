import { join } from 'node:path';
import { encodePacketTable } from '@/core/media/packetTable';
import { MediaReader } from '@/server/runner/shared/mediaReader';
import type { DecodeSpec } from '../decode/spec';
import { EngineError } from '../errors';
import { startProcess, workFolder } from './testTrial';

const watchdogMs = 6_000;

/** A reader in a process of its own, which is stopped when a file holds it. */
export const readerOfDamages = async () =>
  new MediaReader(join(await workFolder(), 'build', 'media.mjs'), watchdogMs);

/** One way to damage a file: cut short, a hole of zeros, noise, bits turned over, a piece left out, a piece twice, or its pieces in another order. */
export function damage(whole: Buffer, random: () => number): Buffer {
  const bytes = Buffer.from(whole);
  const at = Math.floor(random() * bytes.length);
  const length = 1 + Math.floor(random() ** 3 * 0.5 * bytes.length);
  const end = Math.min(bytes.length, at + length);
  switch (Math.floor(random() * 7)) {
    case 0:
      return bytes.subarray(0, at);
    case 1:
      return bytes.fill(0, at, end);
    case 2:
      for (let i = at; i < end; i++) bytes[i] = Math.floor(random() * 256);
      return bytes;
    case 3:
      for (let flips = 1 + Math.floor(random() * 200); flips > 0; flips--)
        bytes[Math.floor(random() * bytes.length)]! ^= 1 << Math.floor(random() * 8);
      return bytes;
    case 4:
      return Buffer.concat([bytes.subarray(0, at), bytes.subarray(end)]);
    case 5:
      return Buffer.concat([bytes.subarray(0, end), bytes.subarray(at)]);
    default:
      return Buffer.concat([bytes.subarray(at), bytes.subarray(0, at)]);
  }
}

/** What becomes of a file: refused with a message, kept with its problem named, or good enough to play. */
export async function outcomeOf(reader: MediaReader, path: string, decodeToo: boolean): Promise<string> {
  const begun = Date.now();
  try {
    const clip = await reader.ask({ kind: 'probe', path });
    if (clip.problem !== null) return clip.problem.length > 20 ? 'problem named' : 'unclear';
    await reader.ask({
      kind: 'preview',
      source: { path, setup: clip.setup, rate: clip.format.rate, packets: clip.packets },
      pixelAspect: 1,
    });
    if (decodeToo)
      await decodes({
        path,
        setup: clip.setup,
        format: clip.format,
        packets: encodePacketTable(clip.packets),
        settings: { kind: 'decode-rate', passSeconds: 0.2, passes: 1 },
        cores: 'all',
      });
    return 'ready';
  } catch (error) {
    return error instanceof EngineError && error.message.length > 20 ? 'refused' : 'unclear';
  } finally {
    expect(Date.now() - begun).toBeLessThan(watchdogMs * 4);
  }
}

/** A decode trial of a file that passed for whole ends, one way or another, with words where it fails. */
async function decodes(spec: DecodeSpec): Promise<void> {
  const host = await startProcess('decode', spec, {}, watchdogMs);
  const end = await host.ended;
  if (end.kind !== 'done')
    throw new Error('message' in end ? end.message : 'The decode trial was cancelled by itself.');
}
