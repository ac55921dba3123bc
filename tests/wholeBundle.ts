import { parseBundle } from '../src/core/formats/bundle';
import { sha256 } from '../src/engine/sha256';

/** Behind the tests of a spec: all that its trials found, of whatever kind, is as the published schema of bundles has it. */
export default async function wholeBundle(): Promise<void> {
  const answer = await fetch(`${process.env.NAVVY_ADDRESS}/api/bundles`);
  if (!answer.ok) throw new Error(`The results of the spec cannot be had: ${answer.status}`);
  parseBundle(await answer.text(), sha256);
}
