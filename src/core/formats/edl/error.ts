import type { CoreCode } from '../../words';
import { LineError } from '../lineError';

/** What is wrong in an edit list, and where. */
export class EdlError<Code extends CoreCode = CoreCode> extends LineError<Code> {
  override name = 'EdlError';
}
