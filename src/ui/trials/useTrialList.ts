'use client';
import type { ListPart, ListQuery } from '@/server/trials/trialList';
import { useNarrowed } from '../table/useNarrowed';

/**
 * A list of trials, kept fresh, as far as it is narrowed.
 * @param linked whether what narrows it stands in the page's address
 */
export const useTrialList = ({ fixed, asked, first }: ListPart, linked: boolean) =>
  useNarrowed<'GET /api/trials', ListQuery>({
    route: 'GET /api/trials',
    first,
    asked,
    fixed,
    linked,
    concerns: (event) => event.type === 'trial-status',
  });
