'use client';
import { count } from '@/core/format';
import { useRouter } from 'next/navigation';
import { useMemo } from 'react';
import { plainName } from '@/core/simulated';
import { renditionInput } from '@/core/kinds/renditions';
import {
  presetOf,
  renditionName,
  renditionPresets,
  renditionRaster,
  type RasterFraction,
  type RenditionPreset,
} from '@/core/rendition/presets';
import { Form, FormChoice, FormNumberField, FormProblems, FormSelect, FormTextField } from '../form/Form';
import { useRequestForm, useTyped } from '../form/useRequestForm';
import { Button } from '../parts/Button';
import { scaleOptions } from '../parts/Choice';
import { figureOrNull } from '../parts/Field';
import { PickList, type Pick } from '../parts/PickList';
import type { RenditionsPage } from '../pages';

const purposes: Record<RenditionPreset['purpose'], string> = {
  proxy: 'Proxies',
  editing: 'Editing intermediates',
  archive: 'Archive',
};

/** What is chosen, and how many at a time as it is typed. */
interface Typed {
  readonly clipIds: string[];
  readonly presetId: string;
  readonly raster: RasterFraction;
  readonly volumeId: string;
  readonly folder: string;
  readonly lanes: string;
}

/** The volume that a clip lies on, where renditions may go there. */
function homeOf(id: string | undefined, clips: RenditionsPage['clips'], volumes: RenditionsPage['volumes']) {
  const home = clips.find((clip) => clip.id === id)?.volumeId;
  return volumes.find((volume) => volume.id === home)?.id;
}

/** Clips as they are picked from, those that the form began with first. */
function picksOf(clips: RenditionsPage['clips'], wanted: ReadonlySet<string>): Pick[] {
  return clips
    .toSorted((a, b) => Number(wanted.has(b.id)) - Number(wanted.has(a.id)))
    .map(({ id, path, volumeName, simulated }) => ({
      id,
      name: path,
      note: plainName(volumeName, simulated),
    }));
}

/** Choose clips, what to make of them, and where it goes. */
export function RenditionForm({
  page: { clips, volumes },
  wanted,
}: {
  page: RenditionsPage;
  wanted: readonly string[];
}) {
  const router = useRouter();
  const making = useRequestForm<'POST /api/trials', Typed>('POST /api/trials', {
    schema: renditionInput,
    defaults: {
      clipIds: wanted.filter((id) => clips.some((clip) => clip.id === id)),
      presetId: 'prores-proxy',
      raster: 'half',
      volumeId: homeOf(wanted[0], clips, volumes) ?? volumes[0]?.id ?? '',
      folder: 'proxies',
      lanes: '',
    },
    bodyOf: ({ lanes, ...chosen }) => ({ kind: 'renditions', ...chosen, lanes: figureOrNull(lanes) }),
  });
  const { clipIds: chosen, presetId, raster, volumeId } = useTyped(making);
  const picks = useMemo(() => picksOf(clips, new Set(wanted)), [clips, wanted]);
  if (clips.length === 0 || volumes.length === 0) return null;
  return (
    <Form
      of={making}
      label="Make renditions"
      onSubmit={async () => {
        const made = await making.send();
        if (made) router.push(`/media/renditions/${made.id}`);
      }}
    >
      <PickList
        label="Clips"
        items={picks}
        chosen={new Set(chosen)}
        onChange={(ids) => making.form.setValue('clipIds', [...ids])}
        empty=""
      />
      <div className="flex flex-wrap items-start gap-4">
        <FormSelect
          name="presetId"
          label="Preset"
          options={[]}
          groups={(['proxy', 'editing', 'archive'] as const).map((purpose) => [
            purposes[purpose],
            renditionPresets
              .filter((preset) => preset.purpose === purpose)
              .map(({ id, name }) => [id, name] as const),
          ])}
          className="w-48"
        />
        <FormChoice<RasterFraction> name="raster" label="Raster" options={scaleOptions} />
        <FormSelect
          name="volumeId"
          label="To volume"
          options={volumes.map(({ id, name, simulated: made }) => [id, made ? `${name} (simulated)` : name])}
          className="w-48"
        />
        <FormTextField name="folder" label="Folder" className="w-28" />
        <FormNumberField name="lanes" label="Clips at a time" placeholder="measure" />
        <Button look="main" type="submit" disabled={making.busy || chosen.length === 0} className="mt-5">
          Make {chosen.length > 1 ? `${count(chosen.length)} renditions` : 'rendition'}
        </Button>
      </div>
      <MadeNote
        first={clips.find(({ id }) => id === chosen[0])}
        as={{ presetId, raster }}
        simulated={volumes.find(({ id }) => id === volumeId)?.simulated ?? false}
      />
      <FormProblems />
    </Form>
  );
}

/** What the first clip becomes, and what is kept of all. */
function MadeNote({
  first,
  as,
  simulated,
}: {
  first: RenditionsPage['clips'][number] | undefined;
  as: { readonly presetId: Typed['presetId']; readonly raster: Typed['raster'] };
  simulated: boolean;
}) {
  return (
    <p className="text-sm text-muted">
      {first?.format ? (
        <>
          The first becomes {renditionName(first.path, as)}: {presetOf(as.presetId).name},{' '}
          {Object.values(renditionRaster(first.format, as)).join('x')}.{' '}
        </>
      ) : (
        'Choose clips. '
      )}
      Rate, depth where the codec can, timecode, sound, colour tags and rotation are kept. What is there
      already, by content and settings, is not made again.
      {simulated &&
        ' The volume is simulated: files are written at this machine’s own speed, without its link.'}
    </p>
  );
}
