'use client';
import { OpeningFigures } from '../tasks/OpeningFigures';
import { timelineView } from './shared/timeline';

export const opening = timelineView<'opening'>(
  ({ trial: { summary, record } }) => <OpeningFigures summary={summary} record={record?.opening} />,
  'Steps',
);
