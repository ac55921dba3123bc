import 'server-only';
import { CubeError, parseCube } from '@/core/formats/cube';
import { addLook, getLooks, listLooks } from '@/db/queries/timelines';
import { RequestError } from '../platform/errors';
import { newId } from '../platform/ids';

/** Takes a `.cube` table in. @throws RequestError with the line that is wrong */
export async function createLook(
  name: string,
  text: string,
): Promise<{ id: string; name: string; dimensions: 1 | 3; size: number }> {
  try {
    const { dimensions, size, title } = parseCube(text);
    const look = {
      id: newId(),
      name: name.replace(/\.cube$/i, '') || title || 'Look',
      dimensions,
      size,
    };
    await addLook({ ...look, cube: text });
    return look;
  } catch (error) {
    if (error instanceof CubeError)
      throw new RequestError('file-unreadable', { name, problem: error.message });
    throw error;
  }
}

export { listLooks as looksKept };

export async function lookText(id: string): Promise<{ name: string; cube: string }> {
  const [look] = await getLooks([id]);
  if (!look) throw new RequestError('no-such-look');
  return look;
}
