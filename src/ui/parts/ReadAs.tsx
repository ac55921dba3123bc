'use client';
import { useState } from 'react';
import type { CacheWay } from '@/core/media/coldProof';
import { Choice } from './Choice';
import { figureOrNull, NumberField } from './Field';

/** How a player's reader reads: past the system's cache, through it or warm, and how many requests at once. Gives what is asked for and the fields to choose it by. */
export function useReadAs() {
  const [way, setWay] = useState<CacheWay | 'warm'>('past');
  const [underWay, setUnderWay] = useState('');
  const fields = (invalid = false) => (
    <>
      <Choice
        label="System cache"
        value={way}
        onChange={setWay}
        options={[
          ['past', 'Cold, past it'],
          ['through', 'Cold, through it'],
          ['warm', 'Warm, on purpose'],
        ]}
      />
      <NumberField
        label="Reads under way"
        value={underWay}
        onChange={setUnderWay}
        invalid={invalid}
        placeholder="as needed"
        className="w-28"
      />
    </>
  );
  const cache: CacheWay = way === 'through' ? way : 'past';
  return { readAs: { warm: way === 'warm', cache, underWay: figureOrNull(underWay) }, fields };
}
