'use client';
import { count } from '@/core/format';
import { useRouter } from 'next/navigation';
import { useState, type SyntheticEvent } from 'react';
import {
  presetOf,
  renditionName,
  renditionPresets,
  renditionRaster,
  type RasterFraction,
  type RenditionPreset,
} from '@/core/rendition/presets';
import { Button } from '../parts/Button';
import { Choice, scaleOptions } from '../parts/Choice';
import { figureOrNull, FormError, NumberField, TextField } from '../parts/Field';
import { Simulated } from '../parts/Simulated';
import { useSend } from '../useSend';
import type { RenditionsPage } from '../pages';
import { Checkbox } from '../parts/Checkbox';
import { SelectField } from '../parts/Select';

const purposes: Record<RenditionPreset['purpose'], string> = {
  proxy: 'Proxies',
  editing: 'Editing intermediates',
  archive: 'Archive',
};

/** Choose clips, what to make of them, and where it goes. */
export function RenditionForm({
  page: { clips, volumes },
  wanted,
}: {
  page: RenditionsPage;
  wanted: readonly string[];
}) {
  const router = useRouter();
  const { busy, error, send } = useSend();
  const [chosen, setChosen] = useState<readonly string[]>(() =>
    wanted.filter((id) => clips.some((clip) => clip.id === id)),
  );
  const [presetId, setPresetId] = useState('prores-proxy');
  const [raster, setRaster] = useState<RasterFraction>('half');
  const [volumeId, setVolumeId] = useState(
    () =>
      clips.find(
        ({ id }) =>
          id === wanted[0] &&
          volumes.some((volume) => volume.id === clips.find((clip) => clip.id === id)?.volumeId),
      )?.volumeId ??
      volumes[0]?.id ??
      '',
  );
  const [folder, setFolder] = useState('proxies');
  const [lanes, setLanes] = useState('');
  const start = async (event: SyntheticEvent) => {
    event.preventDefault();
    const made = await send('POST /api/trials', {
      body: {
        kind: 'renditions',
        clipIds: chosen,
        presetId,
        raster,
        volumeId,
        folder,
        lanes: figureOrNull(lanes),
      },
    });
    if (made) router.push(`/media/renditions/${made.id}`);
  };
  const first = clips.find(({ id }) => id === chosen[0]);
  const simulated = volumes.find(({ id }) => id === volumeId)?.simulated ?? false;
  if (clips.length === 0 || volumes.length === 0) return null;
  return (
    <form
      aria-label="Make renditions"
      onSubmit={(event) => {
        void start(event);
      }}
      className="flex flex-col gap-3 border bg-surface p-4"
    >
      <ClipChooser clips={clips} chosen={chosen} onChange={setChosen} />
      <div className="flex flex-wrap items-end gap-4">
        <SelectField
          label="Preset"
          value={presetId}
          onChange={setPresetId}
          options={[]}
          groups={(['proxy', 'editing', 'archive'] as const).map((purpose) => [
            purposes[purpose],
            renditionPresets
              .filter((preset) => preset.purpose === purpose)
              .map(({ id, name }) => [id, name] as const),
          ])}
          className="w-56"
        />
        <Choice label="Raster" value={raster} onChange={setRaster} options={scaleOptions} />
        <SelectField
          label="To volume"
          value={volumeId}
          onChange={setVolumeId}
          options={volumes.map(({ id, name, simulated: made }) => [id, made ? `${name} (simulated)` : name])}
          className="w-60"
        />
        <TextField
          label="Folder"
          value={folder}
          onChange={setFolder}
          className="w-36"
          invalid={error?.field === 'folder'}
        />
        <NumberField
          label="Clips at a time"
          value={lanes}
          onChange={setLanes}
          placeholder="measure"
          invalid={error?.field === 'lanes'}
        />
        <Button look="main" type="submit" disabled={busy || chosen.length === 0}>
          Make {chosen.length > 1 ? `${count(chosen.length)} renditions` : 'rendition'}
        </Button>
      </div>
      <p className="text-sm text-muted">
        {first?.format ? (
          <>
            The first becomes {renditionName(first.path, { presetId, raster })}: {presetOf(presetId).name},{' '}
            {Object.values(renditionRaster(first.format, { presetId, raster })).join('x')}.{' '}
          </>
        ) : (
          'Choose clips. '
        )}
        Rate, depth where the codec can, timecode, sound, colour tags and rotation are kept. What is there
        already, by content and settings, is not made again.
        {simulated &&
          ' The volume is simulated: files are written at this machine’s own speed, without its link.'}
      </p>
      <FormError message={error?.message} />
    </form>
  );
}

/** The clips to make renditions of; filtered by what is typed. */
function ClipChooser({
  clips,
  chosen,
  onChange,
}: {
  clips: RenditionsPage['clips'];
  chosen: readonly string[];
  onChange: (ids: readonly string[]) => void;
}) {
  const [typed, setTyped] = useState('');
  const first = (id: string) => Number(!chosen.includes(id)); // what is chosen stays in sight
  const found = clips
    .filter(
      ({ path, volumeName, id }) =>
        chosen.includes(id) || `${path} ${volumeName}`.toLowerCase().includes(typed.toLowerCase()),
    )
    .sort((a, b) => first(a.id) - first(b.id))
    .slice(0, 200);
  return (
    <fieldset>
      <legend className="mb-1 flex w-full items-end gap-3 text-xs text-muted">
        Clips: {count(chosen.length)} chosen{' '}
        <input
          aria-label="Find clips"
          placeholder="Find"
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
          className="h-7 w-48 border border-edge bg-ground px-2 text-sm text-ink placeholder:text-muted"
        />
      </legend>
      <div role="group" aria-label="Clips to choose from" className="max-h-40 overflow-auto border">
        {found.map(({ id, path, volumeName, simulated }) => (
          <label key={id} className="flex items-center gap-2 px-2 py-1 text-sm hover:bg-raised">
            <Checkbox
              checked={chosen.includes(id)}
              onChange={(on) => onChange(on ? [...chosen, id] : chosen.filter((other) => other !== id))}
            />
            <span className="min-w-0 truncate">{path}</span>
            <span className="ml-auto whitespace-nowrap text-xs text-muted">
              {volumeName}
              {simulated && (
                <>
                  {' '}
                  <Simulated />
                </>
              )}
            </span>
          </label>
        ))}
        {found.length === 0 && <p className="p-3 text-sm text-muted">No clip matches.</p>}
      </div>
    </fieldset>
  );
}
