import { redirect } from 'next/navigation';
import { statusOrNull } from '@/server/page';

/** Leads to the first section where something is missing, else to the trials. */
export default async function Home() {
  const status = await statusOrNull();
  redirect(status && status.volumes === 0 ? '/storage' : status && status.clips === 0 ? '/media' : '/trials');
}
