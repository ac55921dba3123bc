import { normalize } from 'node:path';
import { leadsOut } from '@/core/media/folder';
import { RequestError } from './errors';

/** A folder below a volume, without ways out of it. @throws RequestError for one that leads out */
export function plainFolder(folder: string, field: string): string {
  if (leadsOut(folder)) throw new RequestError('folder-leads-out', {}, field);
  return normalize(`/${folder}`).slice(1).replace(/\/$/, '');
}
