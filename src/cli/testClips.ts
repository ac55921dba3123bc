import { cp } from 'node:fs/promises';
import { join } from 'node:path';
import { encodeDemoClip } from '@/demo/encodeClip';
import { smallIntra, smallLongGop, smallTenBit } from '@/demo/smallClips';
import { paths } from './home';

/** Makes the clips that end-to-end tests play, once for all specs. */
export async function makeTestClips(): Promise<void> {
  for (const clip of [smallIntra, smallLongGop, smallTenBit]) await encodeDemoClip(clip, paths.media);
}

/** Copies them into a folder of a spec's own, which its volume is. @returns the folder */
export async function copyTestClips(from: string): Promise<string> {
  const folder = join(paths.media, 'shuttle');
  await cp(from, join(folder, 'small'), { recursive: true });
  return folder;
}
