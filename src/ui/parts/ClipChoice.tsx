'use client';
import { playableFiles } from '@/core/asked/library';
import type { LibraryClip } from '@/server/library/clipList';
import { callApi } from '../api';
import { mostShown, SearchChoice, type Found, type Matches } from './SearchChoice';

/** A clip as a choice shows it. */
const foundClip = (clip: LibraryClip): LibraryClip & Found => ({
  ...clip,
  name: clip.path,
  note: clip.volumeName,
});

/** Looks for playable clips at the server. */
export async function searchClips(text: string): Promise<Matches<LibraryClip & Found>> {
  const { rows, total } = await callApi('GET /api/clips', {
    query: { text, ...playableFiles, size: mostShown },
  });
  return { items: rows.map(foundClip), total };
}

/** One clip of the library that can be played. */
export function ClipChoice({
  label = 'Clip',
  value,
  onChange,
  invalid = false,
}: {
  label?: string;
  value: LibraryClip | null;
  onChange: (clip: LibraryClip) => void;
  invalid?: boolean;
}) {
  return (
    <SearchChoice
      label={label}
      value={value && foundClip(value)}
      onChange={onChange}
      search={searchClips}
      placeholder="Choose a clip"
      invalid={invalid}
      className="flex-1 basis-64"
    />
  );
}
