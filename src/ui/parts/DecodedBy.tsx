'use client';
import Link from 'next/link';
import { useState } from 'react';
import { mostShare, softwareId, type DeviceUse, type FrameWay } from '@/core/decode/decoding';
import { plainName } from '@/core/simulated';
import { figure } from './Field';
import { SelectField } from './Select';

/** A device that can decode here. */
export interface DeviceChoice {
  readonly id: string;
  readonly name: string;
  readonly simulated: boolean;
}

interface Draft {
  /** A device's id, or `several`. */
  readonly by: string;
  /** As typed, by device; nothing typed: it gets nothing. */
  readonly shares: Readonly<Record<string, string>>;
  /** How pictures of devices come to memory. */
  readonly frames: FrameWay;
}

const several = 'several';
const software: DeviceChoice = { id: softwareId, name: 'Software', simulated: false };

/** What is asked for, of a draft. */
function decodeOnOf(
  { by, shares, frames }: Draft,
  all: readonly DeviceChoice[],
): Pick<DeviceUse, 'deviceId' | 'share' | 'frames'>[] {
  if (by === softwareId) return [];
  const way = (deviceId: string) => (frames === 'whole' || deviceId === softwareId ? {} : { frames });
  if (by !== several) return [{ deviceId: by, share: 1, ...way(by) }];
  return all.flatMap(({ id: deviceId }) => {
    const share = (shares[deviceId] ?? '').trim();
    return share === '' || share === '0' ? [] : [{ deviceId, share: figure(share), ...way(deviceId) }];
  });
}

/**
 * What decodes a run: software, a device, or several in shares. Gives what is asked for and the field to choose it by.
 * @param scaling whether devices may scale what they decode; a run that only decodes has nothing to scale to
 */
export function useDecodedBy(devices: readonly DeviceChoice[], scaling = true) {
  const [draft, setDraft] = useState<Draft>({ by: softwareId, shares: {}, frames: 'whole' });
  const all = [software, ...devices];
  const field = (invalid = false) => (
    <div className="flex flex-wrap items-end gap-3">
      <SelectField
        label="Decoded by"
        value={draft.by}
        onChange={(by) => setDraft((now) => ({ ...now, by }))}
        invalid={invalid}
        options={[
          ...all.map(({ id, name, simulated }) => [id, plainName(name, simulated)] as const),
          ...(devices.length > 0 ? [[several, 'Several, streams shared out'] as const] : []),
        ]}
        className="w-52"
      />
      {scaling && draft.by !== softwareId && (
        <SelectField
          label="Its frames are transferred"
          value={draft.frames}
          onChange={(frames) => setDraft((now) => ({ ...now, frames: frames }))}
          options={[
            ['whole', 'Full size, scaled by the processor'],
            ['scaled', 'Scaled by the device'],
          ]}
          className="w-60"
        />
      )}
      {draft.by === several && (
        <fieldset>
          <legend className="mb-1 text-xs text-muted">Shares of the streams, 1 to {mostShare} each</legend>
          <div className="flex flex-wrap gap-3">
            {all.map(({ id, name, simulated }) => (
              <label key={id} className="flex h-9 items-center gap-1.5 text-sm">
                {plainName(name, simulated)}
                <input
                  aria-label={`Share of ${plainName(name, simulated)}`}
                  inputMode="numeric"
                  placeholder="none"
                  value={draft.shares[id] ?? ''}
                  onChange={({ target: { value } }) =>
                    setDraft((now) => ({ ...now, shares: { ...now.shares, [id]: value } }))
                  }
                  className="figure h-9 w-16 border border-edge bg-ground px-2 text-sm placeholder:text-muted"
                />
              </label>
            ))}
          </div>
        </fieldset>
      )}
    </div>
  );
  return { decodeOn: decodeOnOf(draft, all), field };
}

/** The way to the matrix that plays something in software and on every device. @param subject as `clip:ID` or `timeline:ID` */
export function SideBySideLink({ subject }: { subject: string }) {
  return (
    <Link
      prefetch={false}
      href={`/trials/plans?question=device-out-device-in&subject=${encodeURIComponent(subject)}`}
      className="mb-2 text-sm underline decoration-edge underline-offset-4"
    >
      In software and on every device, side by side
    </Link>
  );
}
