'use client';
import { useState } from 'react';
import type { FieldsWay, WorkingDepth } from '@/core/playback/settings';
import { DepthChoice, FieldsChoice } from './Choice';

/** How pictures are worked on: in which depth, and what becomes of fields. Gives what is asked for and the choices. */
export function useWorkedIn() {
  const [depth, setDepth] = useState<WorkingDepth>('kept');
  const [fields, setFields] = useState<FieldsWay>('woven');
  const choices = () => (
    <>
      <DepthChoice value={depth} onChange={setDepth} />
      <FieldsChoice value={fields} onChange={setFields} />
    </>
  );
  return { workedIn: { depth, fields }, choices };
}
