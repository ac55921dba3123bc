'use client';
import { useState } from 'react';
import { analysisFacts, analysisWorks, slowFactors, slows, type AnalysisWork } from '@/core/tasks/analysis';
import { Choice } from '../parts/Choice';
import { figureOrNull, inputLook, NumberField } from '../parts/Field';
import { SelectField } from '../parts/Select';

/** The choice of what is worked out, and what is sent of it. */
export function useAnalysisChoice() {
  const [work, setWork] = useState<AnalysisWork>('slow-motion');
  const [factor, setFactor] = useState('2');
  const [points, setPoints] = useState('200');
  const [colour, setColour] = useState('#00b140');
  const [tolerance, setTolerance] = useState('0.1');
  return {
    work,
    setWork,
    factor,
    setFactor,
    points,
    setPoints,
    colour,
    setColour,
    tolerance,
    setTolerance,
    body: () => ({
      work,
      factor: slows(work) ? Number(factor) : null,
      points: work === 'track' ? figureOrNull(points) : null,
      colour: work === 'matte' ? colour : null,
      tolerance: work === 'matte' ? figureOrNull(tolerance) : null,
    }),
  };
}

/** What is worked out of the pictures, with what that work needs to be told. */
export function AnalysisFields({
  at,
  ...choice
}: ReturnType<typeof useAnalysisChoice> & { at: (field: string) => boolean }) {
  const { work } = choice;
  return (
    <>
      <SelectField
        label="Work"
        value={work}
        onChange={(value) => choice.setWork(value)}
        options={analysisWorks.map((id) => [id, analysisFacts[id].name])}
        invalid={at('work')}
        className="w-60"
      />
      {slows(work) && (
        <Choice
          label="Slower"
          value={choice.factor}
          onChange={choice.setFactor}
          options={slowFactors.map((factor) => [String(factor), `${factor} times`])}
        />
      )}
      {work === 'track' && (
        <NumberField
          label="Points"
          value={choice.points}
          onChange={choice.setPoints}
          invalid={at('points')}
          className="w-24"
        />
      )}
      {work === 'matte' && (
        <>
          <label className="w-28">
            <span className="mb-1 block text-xs text-muted">Colour left out</span>
            <input
              type="color"
              value={choice.colour}
              onChange={(event) => choice.setColour(event.target.value)}
              aria-invalid={at('colour')}
              className={`${inputLook} p-1`}
            />
          </label>
          <NumberField
            label="Tolerance, 0.01 to 1"
            value={choice.tolerance}
            onChange={choice.setTolerance}
            invalid={at('tolerance')}
          />
        </>
      )}
    </>
  );
}
