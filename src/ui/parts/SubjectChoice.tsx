'use client';
import { useMemo } from 'react';
import type { LibraryClip } from '@/server/library/clipList';
import { searchClips } from './ClipChoice';
import { SearchChoice, searchIn, type Found } from './SearchChoice';

/** What a trial can be made of, as it is asked for. */
export interface Subject extends Found {
  readonly kind: 'timeline' | 'volume' | 'clip';
}

export const timelineSubject = ({ id, name }: { readonly id: string; readonly name: string }): Subject => ({
  kind: 'timeline',
  id,
  name,
  group: 'Timelines',
});
export const volumeSubject = (volume: Omit<Found, 'group'>): Subject => ({
  ...volume,
  kind: 'volume',
  name: `Clips of ${volume.name}`,
  group: 'Volumes',
});
export const clipSubject = ({ id, path, volumeName, simulated }: LibraryClip): Subject => ({
  kind: 'clip',
  id,
  name: path,
  note: volumeName,
  simulated,
  group: 'Clips',
});

interface SubjectChoiceProps {
  readonly label: string;
  readonly value: Subject | null;
  readonly onChange: (subject: Subject) => void;
  /** Timelines and volumes that can be chosen; clips are looked for at the server. */
  readonly others: readonly Subject[];
  readonly invalid?: boolean;
}

/** A timeline, a volume's clips or a clip. */
export function SubjectChoice({ label, value, onChange, others, invalid = false }: SubjectChoiceProps) {
  const search = useMemo(() => {
    const among = searchIn(others);
    return async (text: string) => {
      const [own, clips] = [among(text), await searchClips(text)];
      return { items: [...own.items, ...clips.items.map(clipSubject)], total: own.total + clips.total };
    };
  }, [others]);
  return (
    <SearchChoice
      label={label}
      value={value}
      onChange={onChange}
      search={search}
      invalid={invalid}
      className="flex-1 basis-64"
    />
  );
}
